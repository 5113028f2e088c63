/** The types of filter results. */
import {
  BOOLEAN,
  either,
  HTML,
  listOf,
  notEmpty,
  NUMBER,
  orEmpty,
  row,
  TEXT,
  UNKNOWN,
  type Type,
} from './type.ts'

const ALWAYS: Readonly<Record<string, Type>> = {
  ...of(TEXT, [
    ...['append', 'prepend', 'upcase', 'downcase', 'capitalize', 'strip', 'lstrip', 'rstrip', 'squish'],
    ...['escape', 'escape_once', 'xml_escape', 'unescape', 'newline_to_br', 'strip_html', 'strip_newlines'],
    ...['replace', 'replace_first', 'replace_last', 'remove', 'remove_first', 'remove_last', 'truncate'],
    ...['truncatewords', 'url_encode', 'url_decode', 'cgi_escape', 'uri_escape', 'slugify', 'join', 'date'],
    ...['date_to_xmlschema', 'date_to_rfc822', 'date_to_string', 'date_to_long_string', 'json', 'inspect'],
    ...['normalize_whitespace', 'array_to_sentence_string', 'base64_encode', 'base64_decode', 'sha256'],
    ...['url', 'url_with', 'asset', 'excerpt', 'ago', 'jsonify', 'hmac_sha256'],
  ]),
  ...of(NUMBER, [
    ...['plus', 'minus', 'times', 'divided_by', 'modulo', 'abs', 'ceil', 'floor', 'round', 'at_least'],
    ...['at_most', 'size', 'sum', 'number_of_words', 'reading_minutes', 'to_integer'],
  ]),
  ...of(HTML, ['markdown', 'raw', 'structured_data', 'picture']),
  ...of(BOOLEAN, ['has', 'has_exp']),
  split: listOf(TEXT),
  headings: listOf(row('heading', { id: TEXT, text: TEXT, level: NUMBER })),
}

/** Filters that return a list of the same items. */
const SAME_ITEMS = new Set([
  ...['sort', 'sort_natural', 'reverse', 'uniq', 'compact', 'where', 'reject', 'where_exp', 'reject_exp'],
  ...['shift', 'pop'],
])
/** Filters that return an item, or nothing. */
const ITEM = new Set(['first', 'last', 'find', 'find_exp'])

function of(type: Type, names: readonly string[]): Record<string, Type> {
  return Object.fromEntries(names.map((name) => [name, type]))
}

/**
 * Returns the type of a filter's result.
 * @param given the types of its arguments
 */
export function filterType(name: string, input: Type, given: readonly Type[]): Type {
  const always = ALWAYS[name]
  if (always) return always
  if (SAME_ITEMS.has(name)) return input.kind === 'list' ? notEmpty(input) : UNKNOWN
  if (ITEM.has(name)) return input.kind === 'list' ? orEmpty(input.of) : UNKNOWN
  switch (name) {
    case 'default':
      return either(notEmpty(input), given[0] ?? UNKNOWN)
    case 'concat':
      return input.kind === 'list' && given[0]?.kind === 'list'
        ? listOf(either(input.of, given[0].of))
        : UNKNOWN
    case 'push':
    case 'unshift':
      return input.kind === 'list' ? listOf(either(input.of, given[0] ?? UNKNOWN)) : UNKNOWN
    case 'slice':
      return input.kind === 'list' ? notEmpty(input) : input.kind === 'text' ? TEXT : UNKNOWN
    case 'group_by':
    case 'group_by_exp':
      return input.kind === 'list'
        ? listOf(row('group', { name: UNKNOWN, items: listOf(input.of), size: NUMBER }))
        : UNKNOWN
    default:
      return UNKNOWN
  }
}
