/** The choices at each place of a query, with a description: for the form, completion and help. */
import { EMPTY_RULES, OPERATORS, SOURCES, type Operator, type SourceName } from '../../shapes/schemas.ts'
import { findField, ownerOf, relatedFields } from '../fields.ts'
import { SOURCE, type Field } from '../sources.ts'

export interface Choice {
  value: string
  /** Description, e.g. `time, may be unset`. */
  detail: string
}

const typeInWords = ({ type, nullable, unique, partOf }: Field): string =>
  [
    partOf ? `${partOf.part} of ${partOf.time}` : type === 'safe-html' ? 'HTML' : type,
    ...(unique ? ['unique'] : []),
    ...(nullable ? ['may be unset'] : []),
  ].join(', ')

export const sourceChoices = (): Choice[] =>
  SOURCES.map((value) => ({ value, detail: Object.keys(SOURCE[value].fields).slice(0, 4).join(', ') }))

/** Relations and counts for `with`. */
export function withChoices(source: SourceName): Choice[] {
  const { relations, counts } = SOURCE[source]
  return [
    ...Object.entries(relations).map(([value, relation]) => ({
      value,
      detail: relation.many
        ? `all its ${relation.source}`
        : `one of ${relation.source}${relation.nullable ? ', or none' : ''}`,
    })),
    ...Object.entries(counts).map(([value, { of }]) => ({ value, detail: `number of ${of}` })),
  ]
}

/** Returns the source's fields, followed by those of related rows. */
function fieldsOf(source: SourceName): { name: string; field: Field; many: boolean }[] {
  const own = Object.entries(SOURCE[source].fields).map(([name, field]) => ({ name, field, many: false }))
  const related = Object.entries(SOURCE[source].relations).flatMap(([relation, { source: other, many }]) =>
    other === 'images'
      ? []
      : relatedFields(other).map(([name, field]) => ({ name: `${relation}.${name}`, field, many })),
  )
  return [...own, ...related].filter(({ field }) => !field.long)
}

/** Fields that a condition can compare. */
export const conditionChoices = (source: SourceName): Choice[] =>
  fieldsOf(source)
    .filter(({ field }) => field.type !== 'relevance')
    .map(({ name, field }) => ({ value: name, detail: typeInWords(field) }))

export const namedChoices = (source: SourceName): Choice[] =>
  Object.entries(SOURCE[source].conditions).flatMap(([value, { keeps, internal }]) =>
    internal ? [] : [{ value, detail: keeps }],
  )

/** Fields and counts that rows can be ordered by. */
export const orderChoices = (source: SourceName): Choice[] =>
  fieldsOf(source)
    .filter(({ field, many }) => !many && field.type !== 'words')
    .map(({ name, field }) => ({ value: name, detail: typeInWords(field) }))
    .concat(
      Object.entries(SOURCE[source].counts).map(([value, { of }]) => ({ value, detail: `number of ${of}` })),
    )

/** Fields that rows can be counted by. */
export const countByChoices = (source: SourceName): Choice[] =>
  fieldsOf(source)
    .filter(({ field }) => !['words', 'relevance', 'time'].includes(field.type))
    .map(({ name, field }) => ({ value: name, detail: typeInWords(field) }))

const OPERATOR_DETAIL: Readonly<Record<Operator, string>> = {
  equal: 'equal to the value',
  'not-equal': 'different from the value, or unset',
  less: 'smaller or earlier',
  'at-most': 'not larger or later',
  more: 'larger or later',
  'at-least': 'not smaller or earlier',
  in: 'one of a list',
  contains: 'contains the text, in any letter case',
  matches: 'full-text search',
  within: 'the category or one below it',
  set: 'has a value',
  unset: 'has no value',
}

/** Operators that fit the type of a field. */
export function operatorChoices(source: SourceName, field: string): Choice[] {
  const found = findField(source, field)
  const isText = ['text', 'slug', 'path'].includes(found?.field.type ?? '')
  const isOptional =
    found === undefined ||
    found.field.nullable === true ||
    (found.relation !== undefined && SOURCE[source].relations[found.relation]?.nullable !== false)
  const fits = (operator: Operator): boolean => {
    if (found?.field.type === 'words') return operator === 'matches'
    switch (operator) {
      case 'matches':
        return false
      case 'within':
        return ownerOf(source, field) === 'categories.slug'
      case 'contains':
        return isText
      case 'set':
      case 'unset':
        return isOptional
      case 'less':
      case 'at-most':
      case 'more':
      case 'at-least':
        return found?.field.type !== 'boolean'
      default:
        return true
    }
  }
  return OPERATORS.filter(fits).map((value) => ({ value, detail: OPERATOR_DETAIL[value] }))
}

export const takeChoices = (): Choice[] => [
  { value: 'one', detail: 'one row' },
  { value: 'first 5', detail: 'the first rows' },
  { value: 'pages', detail: 'pages of rows' },
  { value: 'all', detail: 'all rows, without a limit' },
]
export const emptyChoices = (): Choice[] => {
  const details = {
    'not-found': 'the page answers 404',
    'next-route': 'the next matching route is tried',
    allow: 'the template receives an empty list or nothing',
  }
  return EMPTY_RULES.map((value) => ({ value, detail: details[value] }))
}
