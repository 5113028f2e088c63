/** The shape of a rule. Each rule is a file in `rules/`. */
import type { ChangeStep } from '../shapes/changes.ts'
import { queriesOf } from '../shapes/route-data.ts'
import type { Facts, KnownAddress } from './facts.ts'
import type { Finding, Fix, Witness } from './finding.ts'

export type Area = 'routing' | 'queries' | 'templates' | 'cache' | 'comments' | 'content'

export type RuleFinding = Omit<Finding, 'rule'>

/** What a rule has tested, and what is true if it found nothing. */
export type Claim = {
  /** What is true if everything was tested, e.g. `Every route can be reached`. */
  sentence: string
  tested: number
  /** Singular and plural of what was tested. */
  things: readonly [one: string, many: string]
} & (
  | { of?: never }
  | {
      /** How many there are. */
      of: number
      /** What is true if only a sample was tested. */
      ofSample: string
      /** How the sample was chosen, e.g. `the newest, the oldest, and some between`. */
      chosen: string
    }
)

export interface RuleOutcome {
  /** Of several with one subject, the first is reported, with the pages of the others. */
  findings: RuleFinding[]
  /** null if nothing can be said. */
  claim: Claim | null
}

/** @typeParam F the facts that it needs */
export interface Rule<F = Facts> {
  id: string
  area: Area
  /** What it finds, as a sentence. */
  meaning: string
  /** Why it matters. */
  why: string
  run(facts: F): Promise<RuleOutcome>
}

export const witness = (
  address: string | null,
  text: string,
  actual: string | null = null,
  expected: string | null = null,
): Witness => ({ address, text, actual, expected })

/** Returns a step that saves a document. The runner adds the text that it is based on. */
const saveStep = (document: string, text: string): ChangeStep => ({
  do: 'save-document',
  document,
  text,
})

/** Returns a fix that saves a document; none if the text could not be changed. */
export const saveFix = (document: string, text: string | undefined, label: string, after: string): Fix[] =>
  text === undefined ? [] : [{ label, after, steps: [saveStep(document, text)] }]

/** Returns a fix that changes routes.yaml; none if the change is not possible. */
export const fixRoutes = (
  facts: Facts,
  label: string,
  after: string,
  change: (text: string) => string | undefined,
): Fix[] => saveFix('routes.yaml', change(facts.documents.get('routes.yaml') ?? ''), label, after)

/** Returns the place of a route in routes.yaml. */
export const placeOfRoute = ({ definition }: Facts, name: string) => ({
  document: 'routes.yaml',
  line: definition.routePlaces.get(name)?.line ?? null,
})

export const routeOf = ({ definition }: Facts, name: string) =>
  definition.routes.find((one) => one.route.name === name)

/** Whether the page of a route is that of one post. */
export function isOfPost(facts: Facts, name: string): boolean {
  const own = routeOf(facts, name)?.route
  if (own?.template === undefined) return false
  return queriesOf(own).some((query) => {
    const meaning = facts.definition.queries.get(query)
    return meaning?.from === 'posts' && meaning.take.kind === 'one' && meaning.byUnique
  })
}

/** Returns the paths of the known addresses whose pages use a query. */
export function addressesUsing(
  { definition }: Facts,
  query: string,
  known: readonly KnownAddress[],
): string[] {
  const routes = new Set(
    definition.routes.flatMap(({ route }) => (queriesOf(route).includes(query) ? [route.name] : [])),
  )
  return known.flatMap((one) => (routes.has(one.route) ? [one.path] : []))
}

/** Returns the path of a known address whose page uses a query. */
export const addressUsing = (
  facts: Facts,
  query: string,
  known: readonly KnownAddress[],
): string | undefined => addressesUsing(facts, query, known)[0]

/** Returns e.g. `1 post` or `3 posts`. */
export const counted = (count: number, one: string, many = `${one}s`): string =>
  `${count.toLocaleString('en-GB')} ${count === 1 ? one : many}`

/** Returns the 1-based line of the first occurrence of a part; null if there is none. */
export function lineOf(text: string | undefined, part: string): number | null {
  const at = text?.indexOf(part) ?? -1
  return text === undefined || at === -1 ? null : lineAt(text, at)
}

/** Returns the 1-based line of an offset. */
export const lineAt = (text: string, at: number): number => text.slice(0, at).split('\n').length

/** Returns the text of a line. @param line 1-based */
export const lineOfText = (text: string, line: number): string => text.split('\n')[line - 1] ?? ''

/** Returns e.g. `templates/pages/post.liquid:12`. */
export const placeText = (document: string, line: number | null): string =>
  line === null ? document : `${document}:${line}`
