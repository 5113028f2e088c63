// Comments as data: what is cleaned, what is rendered, what is decided, and how spam is scored.
import fc from 'fast-check'
import { parseFragment, type DefaultTreeAdapterTypes } from 'parse5'
import { describe, expect, it } from 'vitest'
import { sayIn } from '../messages/say.ts'
import { drawAvatar } from './avatar.ts'
import { learn, spamScore, strongestWords, untrained, wordsOf } from './classifier.ts'
import { commentHtml, countLinks } from './render.ts'
import { commentRules } from './rules.ts'
import { readSubmission } from './submission.ts'
import { cleanLine, cleanText, isBlank } from './text.ts'

describe('readSubmission', () => {
  const rules = commentRules({
    'name-length': 10,
    'text-length': 20,
    fields: { email: 'optional', site: 'optional' },
  })
  it.each<[Record<string, string>, object, object]>([
    [{ name: ' Ravi ', text: 'Thank you\r\nfor this' }, { name: 'Ravi', text: 'Thank you\nfor this' }, {}],
    [{ name: '', text: 'x' }, { name: '' }, { name: 'Enter a name to show with your comment.' }],
    [{ name: 'Ravi' }, { text: '' }, { text: 'The comment is empty.' }],
    [{ name: 'R'.repeat(11), text: 'x' }, {}, { name: 'The name has 11 characters; the maximum is 10.' }],
    [{ name: '🔧'.repeat(10), text: 'x' }, {}, {}],
    [{ name: 'a\u0000b\u0007', text: 'x' }, { name: 'ab' }, {}],
    [{ name: '\u200b\u2060\u3164\u2800', text: 'x' }, { name: '' }, { name: expect.any(String) as string }],
    [{ name: 'a', text: '\u200b \n' }, { text: '' }, { text: expect.any(String) as string }],
    [{ name: 'a', text: 'x', email: 'a@b' }, { email: 'a@b' }, {}],
    [{ name: 'a', text: 'x', email: 'a b@c' }, {}, { email: expect.any(String) as string }],
    [{ name: 'a', text: 'x', site: 'b.example' }, { site: 'https://b.example/' }, {}],
    [{ name: 'a', text: 'x', site: 'javascript:alert(1)' }, {}, { site: expect.any(String) as string }],
    [{ name: 'a', text: 'x', site: 'https://me:pw@b.example' }, {}, { site: expect.any(String) as string }],
  ])('%j', (fields, values, errors) => {
    const read = readSubmission(fields, rules, sayIn())
    expect(read.values).toMatchObject(values)
    expect(read.errors).toEqual(errors)
  })
  it('reads no field that the rules do not have', () => {
    const { values } = readSubmission(
      { name: 'a', email: 'x', site: 'x', text: 'x' },
      commentRules(),
      sayIn(),
    )
    expect(values).toMatchObject({ email: '', site: '' })
  })
})

describe('texts', () => {
  it.each([
    ['e\u0301', 'é'],
    ['a\u202Eb\u2066c\u2069', 'abc'],
    [`Z${'\u0301\u0300\u0302'.repeat(20)}`, /^.{1,7}$/u],
    ['\u05E9\u05C1\u05B8\u05DC\u05D5\u05B9\u05DD', /\u05B8/],
    ['👩‍👩‍👧', '👩‍👩‍👧'],
  ])('%j becomes %j', (text, expected) => {
    expect(cleanLine(text)).toEqual(typeof expected === 'string' ? expected : expect.stringMatching(expected))
  })
  it('are clean once they are cleaned, in every plane of Unicode', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => {
        for (const clean of [cleanLine, cleanText]) {
          const once = clean(text)
          expect(clean(once)).toBe(once)
          expect(once).toBe(once.normalize('NFC'))
          expect(once === '' || !isBlank(once)).toBe(true)
        }
      }),
    )
  })
})

describe('commentHtml', () => {
  it.each([
    ['one\ntwo\n\nthree', '<p>one<br>\ntwo</p>\n<p>three</p>'],
    ['*a* **b** `c`', '<p><em>a</em> <strong>b</strong> <code>c</code></p>'],
    ['> said', '<blockquote>\n<p>said</p>\n</blockquote>'],
    ['- a\n- b', '<ul>\n<li>a</li>\n<li>b</li>\n</ul>'],
    ['# no heading', '<p># no heading</p>'],
    ['![x](https://a.example/b.png)', /^<p>!<a href=/],
    ['<b>x</b><script>', '<p>&lt;b&gt;x&lt;/b&gt;&lt;script&gt;</p>'],
    ['[x](javascript:alert(1))', '<p>[x](javascript:alert(1))</p>'],
    ['[x](/posts)', '<p>[x](/posts)</p>'],
    [
      'see https://a.example/b',
      '<p>see <a href="https://a.example/b" rel="ugc nofollow noopener">https://a.example/b</a></p>',
    ],
  ])('%j', (text, expected) => {
    const { html } = commentHtml(text)
    if (typeof expected === 'string') expect(html).toBe(expected)
    else expect(html).toMatch(expected)
  })

  /** What another parser (parse5) finds in HTML. */
  const elementsOf = (html: string) => {
    const found: DefaultTreeAdapterTypes.Element[] = []
    const walk = (node: DefaultTreeAdapterTypes.Node) => {
      if ('tagName' in node) found.push(node)
      if ('childNodes' in node) node.childNodes.forEach(walk)
    }
    walk(parseFragment(html))
    return found
  }
  const ALLOWED = ['p', 'br', 'em', 'strong', 'code', 'pre', 'blockquote', 'ul', 'ol', 'li', 'a']
  it('makes no other elements, attributes or addresses, whatever is typed', () => {
    const pieces = fc.constantFrom(
      ...[
        '<a href="',
        '<img src=x onerror=',
        '](',
        '[x',
        '![',
        ')',
        '`',
        '```\n',
        '* ',
        '> ',
        '\n',
        '"',
        "'",
      ],
      ...[
        'javascript:alert(1)',
        'data:text/html,x',
        'https://a.example',
        '//b.example',
        '&#106;',
        '<svg/onload=',
        '>',
      ],
    )
    fc.assert(
      fc.property(fc.array(pieces, { maxLength: 20 }), (parts) => {
        for (const { tagName, attrs } of elementsOf(commentHtml(parts.join('')).html)) {
          expect(ALLOWED).toContain(tagName)
          for (const { name, value } of attrs) {
            expect(['href', 'rel', 'title', 'start', 'class']).toContain(name)
            if (name === 'href') expect(value).toMatch(/^https?:\/\//i)
          }
        }
      }),
      { numRuns: 300 },
    )
  })
  it.each([
    '*a',
    '[',
    '> ',
    '- ',
    '`',
    '[](',
    '**',
    '<',
    '&amp;',
    '_a*',
    '[a](',
    'https://a.example/ ',
    '\\',
    '![',
    '* * ',
  ])('takes milliseconds for many %j', (piece) => {
    const text = piece.repeat(Math.floor(20_000 / piece.length))
    const began = process.cpuUsage().user
    commentHtml(text)
    // Generous, so that a busy machine does not fail it; what grows quadratically takes seconds.
    expect((process.cpuUsage().user - began) / 1_000).toBeLessThan(1_000)
  })
  it.each([
    ['none', 0],
    ['https://a.example and http://b.example', 2],
    ['[a](https://a.example)', 1],
    ['<a href=x>x</a> [url=x]', 2],
  ])('countLinks of %j: %i', (text, count) => {
    expect(countLinks(text)).toBe(count)
  })
})

describe('the spam score', () => {
  const trained = (spam: string[], shown: string[]) => {
    const training = untrained()
    for (const text of spam) learn(training, 'spam', wordsOf({ name: '', site: '', text }))
    for (const text of shown) learn(training, 'shown', wordsOf({ name: '', site: '', text }))
    return training
  }
  const CHINA = {
    shown: ['chinese beijing chinese', 'chinese chinese shanghai', 'chinese macao'],
    spam: ['tokyo japan chinese'],
  }
  it('is that of the worked example in Manning, Raghavan and Schütze, table 13.1', () => {
    const training = trained(CHINA.spam, CHINA.shown)
    // The example has four documents, so it is scored without the least number of decisions.
    training.comments = { spam: 5, shown: 15 }
    const score = spamScore(
      training,
      wordsOf({ name: '', site: '', text: 'chinese chinese chinese tokyo japan' }),
    )
    // P(c) · P(d|c) ≈ 0.0003, P(c̄) · P(d|c̄) ≈ 0.0001 (example 13.1)
    const c = (3 / 4) * (3 / 7) ** 3 * (1 / 14) * (1 / 14)
    const other = (1 / 4) * (2 / 9) ** 3 * (2 / 9) * (2 / 9)
    expect(score).toBeCloseTo(other / (c + other), 10)
  })
  it('is null with fewer than five decisions of either kind', () => {
    expect(spamScore(trained(Array<string>(9).fill('a b'), Array<string>(4).fill('c d')), ['a'])).toBeNull()
  })
  it('forgets what is taken back', () => {
    const training = trained(['buy now'], ['thank you'])
    const before = structuredClone(training)
    learn(training, 'spam', ['more', 'words'])
    learn(training, 'spam', ['more', 'words'], -1)
    expect(training).toEqual(before)
  })
  it('names the words that decide most, with the hosts of links', () => {
    const training = trained(
      Array<string>(6).fill('best price https://outlet.example/x'),
      Array<string>(6).fill('lovely wheel'),
    )
    const words = strongestWords(
      training,
      wordsOf({ name: '', site: '', text: 'best wheel https://outlet.example/y z' }),
    )
    expect(Object.fromEntries(words.map((one) => [one.word, Math.sign(one.weight)]))).toEqual({
      best: 1,
      'link:outlet.example': 1,
      wheel: -1,
    })
  })
})

describe('pictures', () => {
  it('are the same for the same code, and different for others', () => {
    expect(drawAvatar('abcdefgh')).toBe(drawAvatar('abcdefgh'))
    expect(drawAvatar('abcdefgh')).not.toBe(drawAvatar('abcdefgi'))
  })
  it.each(['', 'short', '<svg onload=x>', '../../etc/passwd'])('do not exist for %j', (code) => {
    expect(drawAvatar(code)).toBeUndefined()
  })
})
