// The format of figures, dates and names, and the texts of errors.
import { describe, expect, it } from 'vitest'
import { ApiProblem } from '../../api/client.ts'
import { areaOf, documentLink, languageOf } from '../editor/documents.ts'
import { errorText } from './error-text.ts'
import {
  asSentence,
  formatBytes,
  formatElapsed,
  formatMilliseconds,
  formatSpan,
  ordinal,
  documentNameOf,
  formatDate,
  formatDateTime,
  plural,
  rowsOf,
} from './format.ts'

it.each([
  [0.004, '0.00 ms'],
  [1.234, '1.23 ms'],
  [9.994, '9.99 ms'],
  [12.34, '12.3 ms'],
  [123.4, '123 ms'],
])('%f milliseconds: %s', (value, text) => expect(formatMilliseconds(value)).toBe(text))

it.each([
  [12.34, '12.3 ms'],
  [999, '999 ms'],
  [1_000, '1.0 s'],
  [17_392, '17.4 s'],
])('%f milliseconds have elapsed: %s', (value, text) => expect(formatElapsed(value)).toBe(text))

// SI prefixes (BIPM, The International System of Units, table 7): a kilobyte is 1,000 bytes.
it.each([
  [0, '0 B'],
  [999, '999 B'],
  [1_000, '1.0 kB'],
  [1_550, '1.6 kB'],
  [2_500_000, '2.5 MB'],
])('%i bytes: %s', (value, text) => expect(formatBytes(value)).toBe(text))

it.each([
  [-5, '0 s'],
  [59_400, '59 s'],
  [60_000, '1 min'],
  [3_599_000, '59 min'],
  [3_600_000, '1 h'],
  [86_399_000, '23 h'],
  [86_400_000 * 3, '3 d'],
])('a span of %i milliseconds: %s', (value, text) => expect(formatSpan(value)).toBe(text))

it.each([
  [1, '1st'],
  [2, '2nd'],
  [3, '3rd'],
  [4, '4th'],
  [10, '10th'],
  [11, '11th'],
  [12, '12th'],
  [13, '13th'],
  [21, '21st'],
  [101, '101st'],
  [111, '111th'],
  [112, '112th'],
  [1_003, '1003rd'],
])('the ordinal of %i: %s', (value, text) => {
  expect(ordinal(value)).toBe(text)
  // The plural rules of Unicode’s CLDR, as the engine has them.
  const rule = new Intl.PluralRules('en', { type: 'ordinal' }).select(value)
  expect(text.endsWith({ one: 'st', two: 'nd', few: 'rd', other: 'th', many: '', zero: '' }[rule])).toBe(true)
})

it('sentences and counts', () => {
  expect([asSentence('the page is not there'), asSentence('Really?'), asSentence('“a” is wrong.')]).toEqual([
    'The page is not there.',
    'Really?',
    '“a” is wrong.',
  ])
  expect([plural(1, 'post'), plural(0, 'post'), plural(2, 'query', 'queries')]).toEqual([
    '1 post',
    '0 posts',
    '2 queries',
  ])
})

describe('a document', () => {
  it.each([
    ['routes.yaml', 3, 'routes', '/routes?view=yaml&line=3', 'yaml'],
    ['blog.yaml', null, 'routes', '/routes?view=settings', 'yaml'],
    ['queries/all-posts.yaml', 2, 'queries', '/queries?open=queries%2Fall-posts.yaml&line=2', 'yaml'],
    [
      'templates/partials/card.liquid',
      null,
      'templates',
      '/templates?open=templates%2Fpartials%2Fcard.liquid',
      'liquid',
    ],
    ['assets/blog.css', null, 'templates', '/templates?open=assets%2Fblog.css', 'css'],
    ['assets/blog.js', null, 'templates', '/templates?open=assets%2Fblog.js', 'javascript'],
    ['content/posts/moth.md', 9, 'routes', '/content/posts?post=moth', 'markdown'],
    ['content/pages/about/people.md', null, 'routes', '/content/pages?page=about%2Fpeople', 'markdown'],
  ] as const)('%s is opened where it is edited', (path, line, area, link, language) => {
    expect([areaOf(path), documentLink(path, line), languageOf(path)]).toEqual([area, link, language])
  })
})

describe('the text of an error', () => {
  const refusal = (more: object) =>
    new ApiProblem({
      type: 'about:blank',
      code: 'document-invalid',
      status: 422,
      title: 'The document is not valid.',
      ...more,
    })
  it.each<[string, unknown, string]>([
    [
      'is its first problem with its place',
      refusal({ problems: [{ file: 'a.yaml', line: 3, message: 'No.' }] }),
      'a.yaml:3 No.',
    ],
    ['has no place without a line', refusal({ problems: [{ file: 'a.yaml', message: 'No.' }] }), 'No.'],
    [
      'has the hint',
      refusal({ problems: [{ file: 'a.yaml', line: 3, message: 'No.', hint: 'Say yes.' }] }),
      'a.yaml:3 No. Say yes.',
    ],
    [
      'is the title with the detail',
      refusal({ detail: 'Choose another.', problems: [] }),
      'The document is not valid. Choose another.',
    ],
    ['is the title', refusal({}), 'The document is not valid.'],
    ['is the message of an error of our own', new TypeError('x is not a function'), 'x is not a function'],
    ['is a general text for anything else', undefined, 'The action failed.'],
  ])('%s', (_, error, text) => expect(errorText(error)).toBe(text))
})

it.each([
  [{ rows: 1, total: null, isEstimated: false }, '1 row'],
  [{ rows: 6, total: 41, isEstimated: false }, '6 rows of 41'],
  [{ rows: 6, total: 41_000, isEstimated: true }, '6 rows of about 41,000'],
  [{ rows: 0, total: 0, isEstimated: false }, '0 rows of 0'],
])('%j: %s', (counted, text) => expect(rowsOf(counted)).toBe(text))

it.each([
  ['Latest Posts!', 'latest-posts'],
  ['  all-posts ', 'all-posts'],
  ['Café -- Ümläute', 'cafe-umlaute'],
  ['../../etc/passwd', 'etc-passwd'],
  ['雨の日', ''],
  ['--', ''],
  ['x'.repeat(100), 'x'.repeat(60)],
])('a document named “%.20s” is %s', (typed, name) => expect(documentNameOf(typed)).toBe(name))

// The workbench has one date format.
it('dates have one format, in the given time zone', () => {
  const moment = '2026-11-26T22:05:00Z'
  expect(formatDate(moment, 'Europe/London')).toBe('26 Nov 2026')
  expect(formatDateTime(moment, 'Europe/London')).toBe('26 Nov 2026, 22:05')
  expect(formatDateTime(moment, 'Asia/Kathmandu')).toBe('27 Nov 2026, 03:50')
})
