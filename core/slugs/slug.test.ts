// Slugs from titles: rules as properties, a table beside two established libraries, each difference named.
import sindre from '@sindresorhus/slugify'
import fc from 'fast-check'
import speaking from 'speakingurl'
import { describe, expect, it } from 'vitest'
import { DEFAULT_SLUG_RULES, freeSlug, numbered, slugFault, slugOf, SLUG_LIMIT } from './slug.ts'

describe('slugOf', () => {
  it.each([
    ['Truing a wheel with two spoons', 'truing-a-wheel-with-two-spoons'],
    ['Café au lait', 'cafe-au-lait'],
    ['Hello—World', 'hello-world'],
    ['UPPER Case', 'upper-case'],
    ['naïve', 'naive'],
    ['foo@bar.com', 'foo-bar-com'],
    ['1.5 kg', '1-5-kg'],
    ['Đà Nẵng', 'da-nang'],
    ['Привет, мир', 'privet-mir'],
    ['Ελλάδα', 'ellada'],
    ['İstanbul', 'istanbul'],
    ['  --  ', ''],
    ['Łódź', 'lodz'],
  ])('%s: %s, as both libraries have it (npm: speakingurl, @sindresorhus/slugify)', (title, slug) => {
    expect([slugOf(title), speaking(title), sindre(title)]).toEqual([slug, slug, slug])
  })

  it.each([
    // title, ours, speakingurl, slugify: why they differ
    [
      'Straße & Müller',
      'strasse-muller',
      'strasse-and-mueller',
      'strasse-and-mueller',
      '“&” is a word in one language only; ö is o in every language',
    ],
    ['ÅÄÖ åäö', 'aao-aao', 'aaeoe-aaeoe', 'a-ae-oe-aaeoe', 'likewise'],
    ['don’t stop', 'dont-stop', 'don-t-stop', 'dont-stop', 'an apostrophe joins'],
    ['Ægir’s ørn', 'aegirs-orn', 'aegir-s-orn', 'a-egirs-orn', 'likewise; æ is one letter'],
    ['fooBar', 'foobar', 'foobar', 'foo-bar', 'a capital letter inside a word does not part it'],
    ['東京', 'dongjing', '', '', 'every script is written in ASCII, rather than lost'],
    ['한국어', 'hangugeo', '', '', 'likewise'],
    ['ﬁne ﬂow', 'fine-flow', 'ne-ow', 'ne-ow', 'ligatures are letters'],
    ['x² and ½', 'x2-and-1-2', 'x-and', 'x-and', 'so are digits above the line'],
    [
      'I ♥ 10% off',
      'i-10-off',
      'i-love-10-off',
      'i-love-10-off',
      'symbols and emoji say nothing in an address',
    ],
    ['مرحبا', 'mrhb', 'mrhba', 'mrhba', 'vowels that are not written are not guessed (any-ascii)'],
  ])('%s: %s, where they have %s and %s: %s', (title, ours, first, second) => {
    expect([slugOf(title), speaking(title), sindre(title)]).toEqual([ours, first, second])
  })

  const anything = fc.string({ unit: 'grapheme', maxLength: 200 })
  it('is empty or a slug, within the limit, and its own slug', () => {
    fc.assert(
      fc.property(anything, fc.integer({ min: 10, max: SLUG_LIMIT }), (title, maximum) => {
        const slug = slugOf(title, maximum)
        if (slug !== '') expect(slugFault(slug, { maximum, reserved: new Set() })).toBeUndefined()
        expect(slugOf(slug, maximum)).toBe(slug)
      }),
      { numRuns: 500 },
    )
  })
  it('cuts between words only, unless the first is too long', () => {
    const word = fc.stringMatching(/^[a-z0-9]{1,12}$/)
    fc.assert(
      fc.property(
        fc.array(word, { minLength: 1, maxLength: 20 }),
        fc.integer({ min: 12, max: 60 }),
        (words, maximum) => {
          const slug = slugOf(words.join(' '), maximum)
          expect(`${words.join('-')}-`.startsWith(`${slug}-`)).toBe(true)
          const next = words[slug.split('-').length]
          if (next !== undefined) expect(`${slug}-${next}`.length).toBeGreaterThan(maximum)
        },
      ),
    )
    expect(slugOf('Unbelievablylongword', 10)).toBe('unbelievab')
  })
})

describe('freeSlug', () => {
  it.each([
    ['moth', [], 'moth'],
    ['moth', ['moth'], 'moth-2'],
    ['moth', ['moth', 'moth-2', 'moth-3'], 'moth-4'],
  ])('%s beside %j: %s', (slug, taken, free) => {
    expect(freeSlug(slug, (one) => taken.includes(one))).toBe(free)
  })
  it('stays a slug within the limit, whatever is taken', () => {
    fc.assert(
      fc.property(
        fc.stringMatching(/^[a-z0-9]{1,9}(-[a-z0-9]{1,9}){0,6}$/),
        fc.integer({ min: 1, max: 120 }),
        (text, count) => {
          const slug = slugOf(text, 20)
          const taken = new Set([slug])
          for (let made = 0; made < count; made++) {
            const free = freeSlug(slug, (one) => taken.has(one), 20)
            expect(taken.has(free)).toBe(false)
            expect(slugFault(free, { maximum: 20, reserved: new Set() })).toBeUndefined()
            taken.add(free)
          }
        },
      ),
      { numRuns: 30 },
    )
    expect(numbered('a-long-slug-cut', 12, 10)).toBe('a-long-12')
  })
})

it.each([
  ['', /empty/],
  ['a/b', /not “\/”/],
  ['A', /not “A”/],
  ['a b', /not “ ”/],
  ['a\u0000b', /not the character U\+0000/],
  ['a\u200bb', /not the character U\+200B/],
  ['é', /not “é”/],
  ['-a', /one at a time/],
  ['a--b', /one at a time/],
  ['a'.repeat(81), /up to 80 characters; this one has 81/],
  ['new', /“new” is reserved/],
])('“%s” may not be a slug', (slug, message) => {
  expect(slugFault(slug, { ...DEFAULT_SLUG_RULES, reserved: new Set(['new']) })).toMatch(message)
})
