/** Reads the documents of a definition: the compiled definition, or every problem with its place. */
import type { HtmlRules } from '../content/html/allow-list.ts'
import { commentRules, type RulesInForce } from '../comments/rules.ts'
import { CACHE_FILE, readCacheRules } from '../caching/read-rules.ts'
import { isTimeZone } from '../content/times.ts'
import { isIndexable, isSameIndex, readIndexKey, type OwnIndex } from '../queries/indexes.ts'
import type { QueryMeaning } from '../queries/meaning.ts'
import { INDEX_PROBLEMS } from '../queries/problems.ts'
import { readQuery } from '../queries/read-query.ts'
import { sayIn } from '../messages/say.ts'
import { searchConfiguration } from '../queries/search-language.ts'
import { DEFAULT_POLICY, type AddressPolicy } from '../routing/addresses/address.ts'
import type { PatternError } from '../routing/patterns/pattern.ts'
import { compileRoute, type CompiledRoute } from '../routing/addresses/compiled-route.ts'
import { RouteTable } from '../routing/addresses/table.ts'
import type { Worded } from '../shapes/catalogue.ts'
import { documentKind, documentName, documentProblems, type DocumentKind } from '../shapes/documents.ts'
import { refused, success, type Outcome } from '../shapes/outcome.ts'
import type { Problem } from '../shapes/problem.ts'
import { Indexes, Routes, Settings, type Route } from '../shapes/schemas.ts'
import { toItsEnd, type InSteps } from '../shapes/steps.ts'
import { readYaml, type Place, type PlaceOf } from '../shapes/yaml.ts'
import { DEFAULT_SLUG_RULES, type SlugRules } from '../slugs/slug.ts'
import { TemplateSet } from '../templates/set.ts'
import { crossCheck } from './cross-check.ts'
import type { Definition } from './definition.ts'
import { withSharedData } from './shared-data.ts'
import { ROUTE_PROBLEMS, SETTINGS_PROBLEMS } from './problems.ts'

type Documents = ReadonlyMap<string, string>

/**
 * Reads and compiles all documents of a definition.
 * @param documents path → text
 */
export const readDefinition = (documents: Documents): Outcome<Definition> =>
  toItsEnd(readDefinitionInSteps(documents))

/** The same in steps, for where readers must not wait. */
export function* readDefinitionInSteps(documents: Documents): InSteps<Outcome<Definition>> {
  const unsuitable = [...documents].flatMap(([file, text]) => documentProblems(file, text))
  if (unsuitable.length > 0) return refused(...unsuitable)

  const problems: Problem[] = []
  const settings = readSettings(documents, problems)
  const routes = readRoutes(documents, problems)
  yield undefined
  const comments = commentRules(settings.value.comments)
  const queries = yield* readQueries(documents, comments, problems)
  const cache = readCacheRules(documents.get(CACHE_FILE))
  problems.push(...cache.problems)
  const timeZone = settings.value['time-zone'] ?? 'UTC'
  const htmlRules = htmlRulesOf(settings.value)
  const say = sayIn(settings.value.language, settings.value.messages)
  const templates = yield* TemplateSet.inSteps(namedTexts(documents, 'template'), timeZone, htmlRules, {
    language: settings.value.language,
    justNow: say('just-now'),
  })
  problems.push(...templates.problems)
  const definition: Definition = {
    settings: settings.value,
    say,
    timeZone,
    searchConfiguration: searchConfiguration(settings.value.language),
    policy: policyOf(settings.value),
    slugRules: slugRulesOf(settings.value),
    htmlRules,
    comments,
    cache: cache.value,
    routes: routes.compiled,
    table: new RouteTable(routes.compiled),
    queries,
    indexes: readIndexes(documents, problems),
    templates,
    assets: namedTexts(documents, 'asset'),
    routePlaces: routes.places,
  }
  yield undefined
  if (problems.length === 0)
    problems.push(
      ...crossCheck({
        ...definition,
        routePlaceOf: routes.placeOf,
        settingsPlaceOf: settings.placeOf,
        cachePlaceOf: cache.placeOf,
      }),
    )
  return problems.length > 0 ? refused(...problems) : success(withSharedData(definition))
}

/** Returns the documents of a kind: name → text. */
const namedTexts = (documents: Documents, kind: DocumentKind): Map<string, string> =>
  new Map(
    [...documents]
      .filter(([path]) => documentKind(path) === kind)
      .map(([path, text]) => [documentName(path), text]),
  )

const nowhere: PlaceOf = () => undefined

const slugRulesOf = ({ slugs }: Settings): SlugRules => ({
  maximum: slugs?.['max-length'] ?? DEFAULT_SLUG_RULES.maximum,
  reserved: new Set(slugs?.reserved ?? []),
})

const htmlRulesOf = ({ html, embeds = [] }: Settings): HtmlRules => ({
  typed: html?.typed ?? true,
  without: new Set(html?.without ?? []),
  embeds,
})

const policyOf = ({ addresses }: Settings): AddressPolicy => ({
  letterCase: addresses?.['letter-case'] ?? DEFAULT_POLICY.letterCase,
  trailingSlash: addresses?.['trailing-slash'] ?? DEFAULT_POLICY.trailingSlash,
})

function readSettings(documents: Documents, problems: Problem[]): { value: Settings; placeOf: PlaceOf } {
  const file = 'blog.yaml'
  const text = documents.get(file)
  const untitled = { value: { title: 'Untitled' }, placeOf: nowhere }
  if (text === undefined) {
    problems.push({ file, ...SETTINGS_PROBLEMS['settings-missing']() })
    return untitled
  }
  const result = readYaml(file, text, Settings)
  if (!result.ok) {
    problems.push(...result.problems)
    return untitled
  }
  const zone = result.value['time-zone']
  if (zone !== undefined && !isTimeZone(zone))
    problems.push({
      file,
      path: '/time-zone',
      ...result.placeOf(['time-zone']),
      ...SETTINGS_PROBLEMS['settings-time-zone-unknown'](zone),
    })
  return result
}

interface ReadRoutes {
  compiled: CompiledRoute[]
  places: Map<string, Place>
  placeOf: PlaceOf
}

function readRoutes(documents: Documents, problems: Problem[]): ReadRoutes {
  const file = 'routes.yaml'
  const compiled: CompiledRoute[] = []
  const places = new Map<string, Place>()
  const text = documents.get(file)
  if (text === undefined) {
    problems.push({ file, ...ROUTE_PROBLEMS['routes-missing']() })
    return { compiled, places, placeOf: nowhere }
  }
  const result = readYaml(file, text, Routes)
  if (!result.ok) {
    problems.push(...result.problems)
    return { compiled, places, placeOf: nowhere }
  }
  for (const [index, route] of result.value.entries()) {
    const made = compileRoute(route)
    if (made.ok) compiled.push(made.compiled)
    const found = [
      ...routeProblems(route, places.has(route.name)),
      ...(made.ok ? [] : [patternProblem(route, made.error)]),
    ]
    for (const { key, worded } of found)
      problems.push({
        file,
        path: `/${index}/${key}`,
        ...result.placeOf([index, ...key.split('/')]),
        ...worded,
      })
    const place = result.placeOf([index, 'name'])
    if (place) places.set(route.name, place)
  }
  return { compiled, places, placeOf: result.placeOf }
}

/** The keys of a route that make its answer. */
const ROUTE_ANSWERS = [
  'template',
  'feed',
  'sitemap',
  'robots',
  'security',
  'preview',
  'action',
  'redirect',
] as const satisfies (keyof Route)[]

/** Returns the problems of one route, each with the key that has it. */
function routeProblems(route: Route, isRepeated: boolean): { key: string; worded: Worded }[] {
  const { name } = route
  const answers = ROUTE_ANSWERS.filter((one) => route[one] !== undefined && route[one] !== false).length
  const found = [
    ...(name === 'not-found' ? [ROUTE_PROBLEMS['route-name-reserved']()] : []),
    ...(isRepeated ? [ROUTE_PROBLEMS['route-name-repeated'](name)] : []),
    ...(answers === 0 ? [ROUTE_PROBLEMS['route-answers-nothing'](name, [...ROUTE_ANSWERS])] : []),
    ...(answers > 1 ? [ROUTE_PROBLEMS['route-answers-twice'](name, [...ROUTE_ANSWERS])] : []),
  ]
  return found.map((worded) => ({ key: 'name', worded }))
}

const patternProblem = ({ path }: Route, { reason, at, unusedType }: PatternError) =>
  unusedType === undefined
    ? { key: 'path', worded: ROUTE_PROBLEMS['route-pattern-invalid'](path, at + 1, reason) }
    : { key: `params/${unusedType}`, worded: ROUTE_PROBLEMS['route-type-unused'](unusedType, path) }

function* readQueries(
  documents: Documents,
  comments: RulesInForce,
  problems: Problem[],
): InSteps<Map<string, QueryMeaning>> {
  const queries = new Map<string, QueryMeaning>()
  for (const [file, text] of documents) {
    if (documentKind(file) !== 'query') continue
    yield undefined
    const read = readQuery(file, text, comments)
    if (read.ok) queries.set(documentName(file), read.value)
    else problems.push(...read.problems)
  }
  return queries
}

function readIndexes(documents: Documents, problems: Problem[]): OwnIndex[] {
  const file = 'indexes.yaml'
  const text = documents.get(file)
  if (text === undefined) return []
  const result = readYaml(file, text, Indexes)
  if (!result.ok) {
    problems.push(...result.problems)
    return []
  }
  const indexes: OwnIndex[] = []
  for (const [at, { name, on, keys }] of result.value.entries()) {
    const report = (path: (string | number)[], worded: Worded) =>
      problems.push({
        file,
        path: `/${[at, ...path].join('/')}`,
        ...result.placeOf([at, ...path]),
        ...worded,
      })
    const index = { name, on, keys: keys.map(readIndexKey) }
    if (indexes.some((one) => one.name === name))
      report(['name'], INDEX_PROBLEMS['index-name-repeated'](name))
    if (indexes.some((one) => isSameIndex(one, index))) report(['keys'], INDEX_PROBLEMS['index-repeated']())
    for (const [place, { field }] of index.keys.entries())
      if (!isIndexable(on, field))
        report(['keys', place], INDEX_PROBLEMS['index-key-not-possible'](on, field))
      else if (index.keys.findIndex((one) => one.field === field) !== place)
        report(['keys', place], INDEX_PROBLEMS['index-key-repeated'](field))
    indexes.push(index)
  }
  return indexes
}
