// Plain text, excerpts, ages, times and front matter.
import fc from 'fast-check'
import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { PostMatter } from '../shapes/content-schemas.ts'
import { ageInWords } from './age.ts'
import { readMatter, writeMatter } from './front-matter.ts'
import { countWords, plainText, readingMinutes, shorten, summaryOf } from './text.ts'
import { invalidTime, readTime, wallTime } from './times.ts'

describe('shorten', () => {
  it.each([
    ['Nine kettles out of ten', 12, 'Nine kettles…'],
    ['Nine kettles out of ten', 13, 'Nine kettles…'],
    ['Nine kettles out of ten', 11, 'Nine…'],
    ['short', 100, 'short'],
    ['One, two, three', 5, 'One…'],
    ['Unbelievablylongword', 6, 'Unbeli…'],
  ])('%s to %i: %s', (text, limit, expected) => {
    expect(shorten(text, limit)).toBe(expected)
  })
  it('never cuts a word or a surrogate pair, and stays within the limit', () => {
    fc.assert(
      fc.property(
        fc.array(fc.stringMatching(/^[a-z\u00e9\u{1f527}]{1,9}$/u), { minLength: 1, maxLength: 30 }),
        fc.integer({ min: 10, max: 60 }),
        (words, limit) => {
          const short = shorten(words.join(' '), limit)
          expect([...short].length).toBeLessThanOrEqual(limit + 1)
          for (const [index, word] of short.replace(/…$/, '').split(' ').entries())
            expect(word).toBe(words[index])
        },
      ),
    )
  })
})

it('reduces HTML to text without tags and code blocks, with entities decoded', () => {
  expect(plainText('<p>a &amp; b</p><pre><code>x</code></pre><p>it&#39;s <em>5 &lt; 6</em></p>')).toBe(
    "a & b it's 5 < 6",
  )
  expect(countWords('Nine kettles, out of ten: caf\u00e9s')).toBe(6)
  expect(readingMinutes(0)).toBe(1)
  expect(readingMinutes(1100)).toBe(5)
})

it('takes the automatic excerpt from the text, not from its headings', () => {
  const html =
    '<h2 id="h-why">Why it whistles</h2><p>The valve is <em>loose</em>.</p><h3>Next</h3><p>Tighten it.</p>'
  expect(summaryOf(html)).toEqual({ excerpt: 'The valve is loose. Tighten it.', wordCount: 10 })
  expect(summaryOf('<h1>Only a heading</h1>').excerpt).toBe('Only a heading')
})

it('words the age of a comment as “3 hours ago” (common practice)', () => {
  const now = new Date('2026-11-24T12:00:00Z')
  const before = (milliseconds: number) => ageInWords(new Date(now.getTime() - milliseconds), now)
  expect(before(3 * 3_600_000)).toBe('3 hours ago')
  expect(before(3 * 3_600_000 + 59 * 60_000)).toBe('3 hours ago')
  expect(before(61_000)).toBe('1 minute ago')
  expect(before(20_000)).toBe('just now')
  expect(before(-5_000)).toBe('just now')
  expect(before(50 * 86_400_000)).toBe('1 month ago')
})

it('counts months and years of the calendar, as luxon does', () => {
  const date = fc.date({ min: new Date('0900-01-01'), max: new Date('2100-01-01'), noInvalidDate: true })
  fc.assert(
    fc.property(date, fc.integer({ min: 86_400_000, max: 4e12 }), (at, passed) => {
      const now = new Date(at.getTime() + passed)
      const [start, end] = [at, now].map((one) => DateTime.fromJSDate(one, { zone: 'UTC' }))
      const months = Math.floor(end?.diff(start as DateTime, 'months').months ?? 0)
      const format = new Intl.RelativeTimeFormat('en')
      expect(ageInWords(at, now)).toBe(
        months >= 12
          ? format.format(-Math.floor(months / 12), 'year')
          : months >= 1
            ? format.format(-months, 'month')
            : format.format(-Math.floor(passed / 86_400_000), 'day'),
      )
    }),
    { numRuns: 1_000 },
  )
})

it('words ages in the language of the blog, as Intl does', () => {
  const now = new Date('2026-11-24T12:00:00Z')
  const before = (milliseconds: number, language: string) =>
    ageInWords(new Date(now.getTime() - milliseconds), now, { language, justNow: 'gerade eben' })
  expect(before(3 * 3_600_000, 'de')).toBe('vor 3 Stunden')
  expect(before(2 * 86_400_000, 'de-AT')).toBe('vor 2 Tagen')
  expect(before(5_000, 'de')).toBe('gerade eben')
  expect(before(3 * 3_600_000, 'fr')).toBe(new Intl.RelativeTimeFormat('fr').format(-3, 'hour'))
})

describe('times, compared with luxon', () => {
  const zones = [
    'UTC',
    'Europe/London',
    'America/New_York',
    'Asia/Kathmandu',
    'Pacific/Apia',
    'Australia/Lord_Howe',
  ]
  it('gives the instants of luxon, except in skipped and repeated hours', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        fc.date({ min: new Date('2012-02-01'), max: new Date('2030-01-01'), noInvalidDate: true }),
        (zone, date) => {
          const wall = DateTime.fromJSDate(date, { zone }).startOf('minute')
          const ours = wallTime(wall.year, wall.month, wall.day, wall.hour, wall.minute, zone)
          expect(DateTime.fromJSDate(ours, { zone }).toFormat('yyyy-MM-dd HH:mm')).toBe(
            wall.toFormat('yyyy-MM-dd HH:mm'),
          )
          if (wall.getPossibleOffsets().length === 1) expect(ours.getTime()).toBe(wall.toMillis())
        },
      ),
      { numRuns: 400 },
    )
  })
  it('moves a time in a skipped hour forward, and takes the first of a repeated hour', () => {
    expect(wallTime(2024, 3, 10, 2, 30, 'America/New_York').toISOString()).toBe('2024-03-10T07:30:00.000Z')
    expect(wallTime(2024, 11, 3, 1, 30, 'America/New_York').toISOString()).toBe('2024-11-03T05:30:00.000Z')
  })
  it('reads absolute and relative times and rejects everything else', () => {
    const now = new Date('2026-11-24T23:30:00Z')
    expect(readTime('-3 days 09:30', now, 'Europe/London')?.toISOString()).toBe('2026-11-21T09:30:00.000Z')
    // In Kathmandu it is already the 25th.
    expect(readTime('+1 day 00:00', now, 'Asia/Kathmandu')?.toISOString()).toBe('2026-11-25T18:15:00.000Z')
    expect(readTime('2026-07-01T09:30', now, 'Europe/London')?.toISOString()).toBe('2026-07-01T08:30:00.000Z')
    expect(readTime('2026-07-01T09:30+02:00', now, 'Europe/London')?.toISOString()).toBe(
      '2026-07-01T07:30:00.000Z',
    )
    expect(readTime('2026-07-01T09:30:15', now, 'Europe/London')?.toISOString()).toBe(
      '2026-07-01T08:30:15.000Z',
    )
    expect(readTime('2026-07-01 09:30:15.250', now, 'UTC')?.toISOString()).toBe('2026-07-01T09:30:15.250Z')
    for (const year of ['0001', '0099', '0987'])
      expect(readTime(`${year}-03-01T10:00`, now, 'UTC')?.toISOString()).toBe(`${year}-03-01T10:00:00.000Z`)
    for (const text of [
      '2026-02-30',
      '2026-02-29T10:00',
      '2026-04-31 10:00',
      '2026-02-30T10:00Z',
      '1900-02-29',
    ])
      expect(readTime(text, now, 'UTC'), text).toBeUndefined()
    expect(readTime('2024-02-29', now, 'UTC')).toBeDefined()
    expect(invalidTime('2026-02-30T10:00')).toMatchObject({
      code: 'time-day-unknown',
      hint: 'The nearest days are 2026-02-28 and 2026-03-01.',
    })
    expect(invalidTime('soon').code).toBe('time-invalid')
    for (const text of ['soon', '2026-13-01', '-3 days 25:00', '', '1e9'])
      expect(readTime(text, now, 'UTC'), text).toBeUndefined()
  })
})

describe('front matter', () => {
  it('is read and written without loss', () => {
    const tricky = fc
      .string({ minLength: 1, maxLength: 40 })
      .filter((text) => !/\p{Cc}/u.test(text) && text.isWellFormed())
    fc.assert(
      fc.property(
        tricky,
        fc.string({ maxLength: 80 }).map((text) => text.replace(/^[\r\n]+/, '')),
        (title, body) => {
          const read = readMatter('post.md', writeMatter({ title }, body), PostMatter)
          expect(read.ok && { title: read.matter.title, body: read.body }).toEqual({ title, body })
        },
      ),
    )
  })
  it.each([
    ['no front matter', 'Just text', { line: 1, code: 'front-matter-missing' }],
    ['an unknown key', '---\ntitle: a\ntag: b\n---\n', { line: 3, code: 'value-key-unknown' }],
    ['no title', '---\nslug: a\n---\n', { code: 'value-missing' }],
    ['broken YAML', '---\ntitle: [a\n---\n', { line: expect.any(Number) as number }],
  ])('%s', (_, text, expected) => {
    const result = readMatter('post.md', text, PostMatter)
    expect(result.ok ? [] : result.problems).toEqual([
      expect.objectContaining({ file: 'post.md', ...expected }),
    ])
  })
})
