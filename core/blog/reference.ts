/** What documents of a definition can use: sources and their fields, values of templates, tags, filters and fonts. */
import { SOURCE, type Field, type Source } from '../queries/sources.ts'
import { PARAMETER_RULES } from '../routing/patterns/parameters.ts'
import { FONTS } from '../shapes/fonts.ts'
import { FILTERS, TAGS } from '../templates/authoring/reference.ts'
import { SHARED_VALUES } from '../templates/shared-names.ts'
import { typeInWords, type Type } from '../templates/types/type.ts'
import { sharedTypes } from './data-types.ts'

export interface ReferenceEntry {
  /** As it is written, e.g. `posts.publishedAt`. */
  name: string
  /** Its type in words; empty for tags and filters. */
  type: string
  text: string
}

export interface ReferenceSection {
  title: string
  /** What the section is about, in a sentence or two. */
  text: string
  entries: readonly ReferenceEntry[]
}

/** Returns the reference. It is derived from what the product itself uses, so that it cannot be out of date. */
export const reference = (): ReferenceSection[] => [
  ...Object.entries(SOURCE).map(([name, source]) => sourceSection(name, source)),
  {
    title: 'Values that every template sees',
    text: 'Pages and layouts also see the data of the route, partials their arguments.',
    entries: sharedEntries(),
  },
  {
    title: 'Types of parameters',
    text: 'The type of a parameter in “params” or “query” of a route decides which text matches, and what queries receive.',
    entries: Object.entries(PARAMETER_RULES).map(([name, { meaning }]) => ({
      name,
      type: '',
      text: meaning,
    })),
  },
  {
    title: 'Tags',
    text: 'Written in {% … %}. A line that holds only tags prints no line.',
    entries: entriesOf(TAGS),
  },
  {
    title: 'Filters',
    text: 'Written after a value: {{ post.title | upcase }}.',
    entries: entriesOf(FILTERS),
  },
  {
    title: 'Fonts',
    text: 'They ship with the product. Style sheets use them by their address.',
    entries: Object.keys(FONTS).map((name) => ({ name: `/fonts/${name}`, type: '', text: 'WOFF2' })),
  },
]

const entriesOf = (texts: Readonly<Record<string, string>>): ReferenceEntry[] =>
  Object.entries(texts).map(([name, text]) => ({ name, type: '', text }))

function sourceSection(name: string, { fields, relations, counts, conditions }: Source): ReferenceSection {
  return {
    title: `Source “${name}”`,
    text: `Queries with “from: ${name}”.`,
    entries: [
      ...Object.entries(fields).map(([field, one]) => ({
        name: field,
        type: orNone(one.type === 'time' ? 'date and time' : one.type, one.nullable),
        text: fieldText(one),
      })),
      ...Object.entries(relations).map(([relation, one]) => ({
        name: relation,
        type: one.many ? `list of ${one.source}` : orNone(`row of ${one.source}`, one.nullable),
        text: `Related rows: fetched with “with: [${relation}]”. Conditions can use its fields (${relation}.…).`,
      })),
      ...Object.entries(counts).map(([count, one]) => ({
        name: count,
        type: 'integer',
        text: `Number of ${one.of}: fetched with “with: [${count}]”.`,
      })),
      ...Object.entries(conditions)
        .filter(([, one]) => !one.internal)
        .map(([condition, one]) => ({
          name: condition,
          type: 'condition',
          text: `Named condition: ${one.keeps}.`,
        })),
    ],
  }
}

const orNone = (type: string, nullable = false) => (nullable ? `${type}, possibly empty` : type)

function fieldText({ unique, long, partOf, type }: Field): string {
  if (type === 'words') return 'The words of the text. It can only be searched with “is: matches”.'
  if (type === 'relevance') return 'How well a row matches the search. It can only be used in “order”.'
  if (partOf)
    return `The ${partOf.part} of ${partOf.time} in the blog’s time zone: for conditions, “order” and “count-by”; not fetched.`
  return [unique ? 'Unique.' : '', long ? 'Only fetched by queries for one row.' : ''].join(' ').trim()
}

/** Nesting of values that is listed. Pages have pages as children, without end. */
const DEEPEST = 3

function sharedEntries(): ReferenceEntry[] {
  const entries: ReferenceEntry[] = []
  const add = (name: string, type: Type, depth: number) => {
    entries.push({ name, type: typeInWords(type), text: SHARED_VALUES[name] ?? '' })
    if (depth === DEEPEST) return
    const inner = type.kind === 'list' ? type.of : type
    const dots = type.kind === 'list' ? `${name}[]` : name
    if (inner.kind === 'row') for (const [field, of] of inner.fields) add(`${dots}.${field}`, of, depth + 1)
  }
  for (const [name, type] of sharedTypes()) add(name, type, 1)
  return entries
}
