/** The problems of documents as such: their names, their YAML, and values that do not fit a schema. */
import { catalogue, wording } from './catalogue.ts'

const list = (items: readonly string[]) => items.join(', ')

export const DOCUMENT_PROBLEMS = catalogue({
  'document-name-invalid': wording(
    (file: string) => ({
      message: `“${file}” is not a valid document name.`,
      hint: 'Use lower-case letters, digits and hyphens, e.g. “queries/latest-posts.yaml” or “templates/partials/card.liquid”.',
    }),
    'queries/Latest.yml',
  ),
  'document-too-long': wording(
    (limit: number) => ({
      message: `The document is longer than ${limit.toLocaleString('en-GB')} characters.`,
    }),
    200_000,
  ),
  'document-null-character': wording(() => ({ message: 'The document contains a null character.' })),
  'document-unknown': wording(
    (path: string) => ({ message: `There is no document “${path}”.` }),
    'queries/latest.yaml',
  ),
})

export const YAML_PROBLEMS = catalogue({
  'yaml-invalid': wording((reason: string) => ({ message: reason }), 'Missing closing "quote".'),
  'yaml-tab': wording(() => ({
    message: 'This line is indented with a tab.',
    hint: 'YAML is indented with spaces.',
  })),
  'yaml-not-closed': wording(
    (opener: string, line: number) => ({
      message: `“${opener}” is not closed before line ${line}.`,
      hint: `Add “${{ '{': '}', '[': ']' }[opener] ?? opener}”.`,
    }),
    '{',
    12,
  ),
  'yaml-key-repeated': wording(() => ({ message: 'This key is repeated. Each key can be used once.' })),
  'yaml-more': wording(
    (count: number) => ({
      message: `${count.toLocaleString('en-GB')} more problems follow, probably because of these.`,
    }),
    93,
  ),
  'yaml-too-deep': wording(() => ({ message: 'The document is nested too deeply.' })),
  'front-matter-missing': wording(() => ({
    message: 'The front matter is missing.',
    hint: 'Start the file with “---”, “title: …” and “---”, each on a line of its own.',
  })),
  'front-matter-too-long': wording(
    (most: number) => ({
      message: `The front matter does not end within ${most.toLocaleString('en-GB')} characters.`,
      hint: 'End it with “---” on a line of its own, and move long texts below it.',
    }),
    20_000,
  ),
})

export const VALUE_PROBLEMS = catalogue({
  'value-key-unknown': wording(
    (key: string, known: readonly string[]) => ({
      message: `“${key}” is not a known key.`,
      hint: `Known keys: ${list(known)}.`,
    }),
    'fild',
    ['field', 'is', 'to', 'when'],
  ),
  'value-missing': wording((key: string) => ({ message: `“${key}” is missing.` }), 'name'),
  'value-not-allowed': wording(
    (subject: string, value: string, allowed: readonly string[]) => ({
      message: `${subject} must not be ${value}.`,
      hint: `Use one of: ${list(allowed)}.`,
    }),
    '“is”',
    '“like”',
    ['equal', 'contains'],
  ),
  'value-type': wording(
    (subject: string, wanted: string, value: string, hint: string) => ({
      message: `${subject} must be ${wanted}, not ${value}.`,
      hint,
    }),
    '“size”',
    'an integer',
    '“six”',
    '',
  ),
  'value-form': wording(
    (subject: string, value: string, form: string) => ({
      message: `${subject} has the wrong form: ${value}.`,
      hint: `Allowed: ${form}.`,
    }),
    '“name”',
    '“Latest Posts”',
    'lower-case letters, digits and single hyphens, a letter first',
  ),
  'value-too-long': wording(
    (subject: string, limit: string) => ({ message: `${subject} is longer than ${limit} characters.` }),
    '“title”',
    '120',
  ),
  'value-empty': wording((subject: string) => ({ message: `${subject} is empty.` }), '“title”'),
  'value-too-many-items': wording(
    (subject: string, limit: string) => ({ message: `${subject} has more than ${limit} items.` }),
    '“where”',
    '20',
  ),
  'value-too-few-items': wording(
    (subject: string, limit: string) => ({ message: `${subject} has fewer than ${limit} items.` }),
    '“keys”',
    '2',
  ),
  'value-too-small': wording(
    (subject: string, value: string, limit: string) => ({
      message: `${subject} is ${value}; the minimum is ${limit}.`,
    }),
    '“size”',
    '0',
    '1',
  ),
  'value-too-large': wording(
    (subject: string, value: string, limit: string) => ({
      message: `${subject} is ${value}; the maximum is ${limit}.`,
    }),
    '“size”',
    '500',
    '100',
  ),
  'value-invalid': wording(
    (subject: string, reason: string) => ({ message: `${subject} ${reason}.` }),
    '“size”',
    'must be a multiple of 2',
  ),
  'value-more-problems': wording(
    (count: number) => ({
      message: count === 1 ? 'There is 1 more problem.' : `There are ${count} more problems.`,
    }),
    12,
  ),
})
