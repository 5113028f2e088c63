// Slugs: properties, and a comparison with two established libraries that explains every difference.
import sindre from '@sindresorhus/slugify'
import fc from 'fast-check'
import speaking from 'speakingurl'
import { describe, expect, it } from 'vitest'
import { DEFAULT_SLUG_RULES, freeSlug, numbered, slugProblem, slugOf, SLUG_LIMIT } from './slug.ts'

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
  ])(
    'derives from %s the slug %s, like both libraries (npm: speakingurl, @sindresorhus/slugify)',
    (title, slug) => {
      expect([slugOf(title), speaking(title), sindre(title)]).toEqual([slug, slug, slug])
    },
  )

  it.each([
    // title, slug, speakingurl, slugify, why they differ
    [
      'Straße & Müller',
      'strasse-muller',
      'strasse-and-mueller',
      'strasse-and-mueller',
      '“&” is a word in only one language; ö is o in every language',
    ],
    ['ÅÄÖ åäö', 'aao-aao', 'aaeoe-aaeoe', 'a-ae-oe-aaeoe', 'as above'],
    ['don’t stop', 'dont-stop', 'don-t-stop', 'dont-stop', 'apostrophes are removed'],
    ['Ægir’s ørn', 'aegirs-orn', 'aegir-s-orn', 'a-egirs-orn', 'as above; æ is a single letter'],
    ['fooBar', 'foobar', 'foobar', 'foo-bar', 'a capital letter does not separate words'],
    ['東京', 'dongjing', '', '', 'every script is transliterated instead of lost'],
    ['한국어', 'hangugeo', '', '', 'as above'],
    ['ﬁne ﬂow', 'fine-flow', 'ne-ow', 'ne-ow', 'ligatures are letters'],
    ['x² and ½', 'x2-and-1-2', 'x-and', 'x-and', 'superscripts are digits'],
    ['I ♥ 10% off', 'i-10-off', 'i-love-10-off', 'i-love-10-off', 'symbols and emoji are removed'],
    ['مرحبا', 'mrhb', 'mrhba', 'mrhba', 'unwritten vowels are not guessed (any-ascii)'],
  ])('derives from %s the slug %s; the libraries have %s and %s: %s', (title, ours, first, second) => {
    expect([slugOf(title), speaking(title), sindre(title)]).toEqual([ours, first, second])
  })

  const anything = fc.string({ unit: 'grapheme', maxLength: 200 })
  it('returns an empty text or a valid slug, and is idempotent', () => {
    fc.assert(
      fc.property(anything, fc.integer({ min: 10, max: SLUG_LIMIT }), (title, maximum) => {
        const slug = slugOf(title, maximum)
        if (slug !== '') expect(slugProblem(slug, { maximum, reserved: new Set() })).toBeUndefined()
        expect(slugOf(slug, maximum)).toBe(slug)
      }),
      { numRuns: 500 },
    )
  })
  it('cuts only between words, unless the first word is too long', () => {
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
  ])('for %s next to %j returns %s', (slug, taken, free) => {
    expect(freeSlug(slug, (one) => taken.includes(one))).toBe(free)
  })
  it('returns a valid slug within the limit, whatever is taken', () => {
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
            expect(slugProblem(free, { maximum: 20, reserved: new Set() })).toBeUndefined()
            taken.add(free)
          }
        },
      ),
      { numRuns: 30 },
    )
    expect(numbered('a-long-slug-cut', 12, 10)).toBe('a-long-12')
    expect(numbered('a-long-slug-cut', 12, 16)).toBe('a-long-slug-12')
    expect(numbered('unbelievable', 12, 10)).toBe('unbelie-12')
  })
})

it.each([
  ['', 'slug-empty', 'empty'],
  ['a/b', 'slug-character', '“/”'],
  ['A', 'slug-character', '“A”'],
  ['a b', 'slug-character', '“ ”'],
  ['a\u0000b', 'slug-character', 'the character U+0000'],
  ['a\u200bb', 'slug-character', 'the character U+200B'],
  ['é', 'slug-character', '“é”'],
  ['-a', 'slug-hyphens', ''],
  ['a--b', 'slug-hyphens', ''],
  ['a'.repeat(81), 'slug-too-long', '81'],
  ['new', 'slug-reserved', '“new”'],
])('refuses the slug “%s”', (slug, code, names) => {
  const problem = slugProblem(slug, { ...DEFAULT_SLUG_RULES, reserved: new Set(['new']) })
  expect(problem).toMatchObject({ code, message: expect.stringContaining(names) as string })
})
