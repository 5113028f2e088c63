/** The problems of content: texts, times and SVG images. */
import { catalogue, wording } from '../shapes/catalogue.ts'

export const CONTENT_PROBLEMS = catalogue({
  'text-too-long': wording(
    (limit: number) => ({
      message: `The text is longer than ${limit.toLocaleString('en-GB')} characters.`,
    }),
    500_000,
  ),
  'text-null-character': wording(() => ({ message: 'The text contains a null character.' })),
  'time-day-unknown': wording(
    (day: string, before: string, after: string) => ({
      message: `There is no ${day}.`,
      hint: `The nearest days are ${before} and ${after}.`,
    }),
    '2026-02-30',
    '2026-02-28',
    '2026-03-01',
  ),
  'time-invalid': wording(
    (text: string) => ({
      message: `“${text}” is not a time.`,
      hint: 'Write it as 2026-11-20T09:30, or relative to today as “-3 days 09:30”.',
    }),
    'yesterday',
  ),
})

export const SVG_PROBLEMS = catalogue({
  'svg-empty': wording(() => ({ message: 'The file is empty.' })),
  'svg-xml-invalid': wording(
    (reason: string) => ({ message: `The XML is not valid: ${reason}.` }),
    'unclosed tag: g',
  ),
  'svg-root-missing': wording(() => ({
    message: 'The file is not an SVG image: it does not start with <svg xmlns="…">.',
  })),
  'svg-size-missing': wording(() => ({
    message: 'The image has no size.',
    hint: 'Give <svg> a viewBox, or a width and a height.',
  })),
  'svg-too-deep': wording(
    (limit: number) => ({ message: `Elements are nested more than ${limit} levels deep.` }),
    200,
  ),
})
