/** A definition that is ready to run: read, checked and compiled. It never changes once it is built. */
import { createHash } from 'node:crypto'
import { setTimeout } from 'node:timers/promises'
import type { DataSource } from 'typeorm'
import { fragmentRefresh, pageRule } from '../../core/caching/rules.ts'
import { pipelineOf } from '../../core/content/html/markdown.ts'
import { success, type Outcome } from '../../core/shapes/outcome.ts'
import { readDefinitionInSteps } from '../../core/blog/read.ts'
import type { Definition } from '../../core/blog/definition.ts'
import { inSlices, toItsEnd, type InSteps } from '../../core/shapes/steps.ts'
import type { DataEntry } from '../../core/shapes/schemas.ts'
import { wantedOf, type Wanted } from '../../core/queries/wanted.ts'
import { givenMeaning, readMeaning, type QueryMeaning } from '../../core/queries/meaning.ts'
import type { DefinitionState } from '../../core/templates/scope.ts'
import { compileQuery, queryState, type CompiledQuery } from '../store/statements/compile-query.ts'
import type { Visibility } from '../../core/queries/plan.ts'

export interface SiteQuery {
  name: string
  meaning: QueryMeaning
  compiled: Record<Visibility, CompiledQuery>
  /** The fields that are fetched; absent for all of them. */
  wanted?: Wanted
}

export interface Site {
  definition: Definition
  /** Changes with every document. */
  version: string
  /** The states of its parts, which are parts of the keys of copies: only copies of changed parts are dropped. */
  parts: DefinitionState
  queries: ReadonlyMap<string, SiteQuery>
  /** Returns what identifies how a route answers: its pattern, queries, templates and what these use. */
  answerState(route: string): string
  /** For each route, its data with queries that fetch only what the route's templates read. */
  reading: ReadonlyMap<string, ReadonlyMap<string, SiteQuery>>
  /** The query for the pages in the navigation, which templates read as `navigation`. */
  navigation: SiteQuery
  /** The hash of each asset's content, by name. */
  assetVersions: ReadonlyMap<string, string>
}

/** The name of the navigation's query in walks. */
export const NAVIGATION = 'navigation'

const hash = (text: string) => createHash('sha256').update(text).digest('hex').slice(0, 12)

/** Identifies the documents of a definition. */
export const versionOf = (documents: ReadonlyMap<string, string>): string =>
  hash(
    [...documents]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map((entry) => entry.join('\0'))
      .join('\0'),
  )

export const buildSite = (database: DataSource, documents: ReadonlyMap<string, string>): Outcome<Site> =>
  toItsEnd(buildSiteInSteps(database, documents))

/** Builds a site in slices, so that readers do not wait. */
export const buildSiteInSlices = (
  database: DataSource,
  documents: ReadonlyMap<string, string>,
): Promise<Outcome<Site>> =>
  inSlices(
    buildSiteInSteps(database, documents),
    (milliseconds) => setTimeout(milliseconds),
    () => performance.now(),
  )

function* buildSiteInSteps(
  database: DataSource,
  documents: ReadonlyMap<string, string>,
): InSteps<Outcome<Site>> {
  const result = yield* readDefinitionInSteps(documents)
  if (!result.ok) return result
  const definition = result.value
  const compile = (name: string, meaning: QueryMeaning, wanted?: Wanted): SiteQuery => ({
    name,
    meaning,
    compiled: {
      reader: compileQuery(database, meaning, 'reader', definition, wanted),
      author: compileQuery(database, meaning, 'author', definition, wanted),
    },
    ...(wanted ? { wanted } : {}),
  })
  const reading = new Map<string, ReadonlyMap<string, SiteQuery>>()
  for (const { name, template, data } of pagesOf(definition)) {
    const queries = new Map<string, SiteQuery>()
    yield undefined
    for (const [key, { query, wanted }] of wantedOfPage(definition, template, data)) {
      yield undefined
      const meaning = definition.queries.get(query)
      if (meaning) queries.set(key, compile(query, meaning, wanted))
    }
    reading.set(name, queries)
  }
  const navigation = readMeaning({
    from: 'pages',
    with: ['parent'],
    where: ['in-navigation'],
    order: ['position', 'id'],
    take: 'all',
  })
  if (!navigation.ok) throw new Error('The navigation query is not valid.')
  const whole = new Map<string, SiteQuery>()
  for (const [name, meaning] of definition.queries) {
    yield undefined
    whole.set(name, compile(name, meaning))
  }
  const assetVersions = new Map([...definition.assets].map(([name, text]) => [name, hash(text)]))
  return success({
    definition,
    version: versionOf(documents),
    queries: whole,
    reading,
    navigation: compile(NAVIGATION, navigation.meaning),
    assetVersions,
    parts: new SiteParts(definition, assetVersions),
    answerState: (route) => answerState(definition, route),
  })
}

/** Settings, routes and assets are used by any template, so each of them counts for all routes. */
function answerState(
  { settings, routes, assets, templates, queries, ...rest }: Definition,
  name: string,
): string {
  const rule = settings['not-found']
  const routeNamed = (wanted: string | undefined) => routes.find((one) => one.route.name === wanted)?.route
  const named = routeNamed(name)
  // An action shows the page of another route.
  const own = named?.then === undefined ? named : routeNamed(named.then)
  const { template, data = {} } =
    name === NOT_FOUND
      ? { template: rule?.template, data: rule?.data ?? {} }
      : (own ?? { template: undefined })
  const texts =
    template === undefined ? [] : templates.closure(template).map((one) => [one, templates.text(one)])
  const meanings = Object.values(data).map((entry) =>
    queries.get(typeof entry === 'string' ? entry : entry.query),
  )
  return hash(
    JSON.stringify([
      settings,
      routes.map((one) => one.route),
      [...assets.keys()],
      texts,
      meanings,
      rest.timeZone,
    ]),
  )
}

/** Computes the state of each part of a definition once. */
class SiteParts implements DefinitionState {
  readonly #definition: Definition
  readonly #assets: ReadonlyMap<string, string>
  readonly #known = new Map<string, string | undefined>()

  constructor(definition: Definition, assets: ReadonlyMap<string, string>) {
    this.#definition = definition
    this.#assets = assets
  }

  state(part: string): string | undefined {
    if (this.#known.has(part)) return this.#known.get(part)
    const state = this.#stateOf(part)
    this.#known.set(part, state)
    return state
  }

  #stateOf(part: string): string | undefined {
    const { templates, settings, routes, htmlRules, timeZone, policy } = this.#definition
    const [, kind = '', name = ''] = /^(\S+)(?: (.*))?$/.exec(part) ?? []
    const stateOf = (value: unknown) => (value === undefined ? undefined : hash(JSON.stringify(value)))
    switch (kind) {
      case 'fragment':
        return templates.hasFragment(part) ? name : undefined
      case 'fragment-rule':
        return fragmentRefresh(this.#definition.cache, name)
      case 'template':
        return stateOf(templates.text(name))
      case 'route':
        return stateOf(
          routesBuilt(routes.filter((one) => one.route.name === name)).concat(JSON.stringify(policy)),
        )
      case 'routes':
        return stateOf(routesBuilt(routes).concat(JSON.stringify(policy)))
      case 'asset':
        return this.#assets.get(name)
      case 'assets':
        return stateOf([...this.#assets])
      case 'setting':
        return stateOf(name === '*' ? settings : ((settings as Record<string, unknown>)[name] ?? null))
      case 'page':
        return hash(
          JSON.stringify([
            answerState(this.#definition, name),
            ...this.#assets,
            pageRule(this.#definition.cache, name),
            this.#fragmentRulesOf(name),
          ]),
        )
      case 'json':
        return hash(
          JSON.stringify([answerState(this.#definition, name), pageRule(this.#definition.cache, name)]),
        )
      case 'query': {
        const meaning = this.#definition.queries.get(name)
        return meaning && queryState(meaning, this.#definition)
      }
    }
    switch (part) {
      case 'allowed HTML':
        return pipelineOf(htmlRules)
      case 'time zone':
        return timeZone
      case 'language':
        return `${settings.language ?? ''} ${this.#definition.say('just-now')}`
      default:
        throw new Error(`A definition has no part “${part}”.`)
    }
  }

  /** Returns how the fragments in a page are refreshed. */
  #fragmentRulesOf(route: string): string[] {
    const { templates, routes, cache } = this.#definition
    const template = routes.find((one) => one.route.name === route)?.route.template
    if (template === undefined) return []
    const used = new Set(templates.closure(template))
    return templates
      .fragments()
      .filter((one) => used.has(one.template))
      .map((one) => `${one.name} ${fragmentRefresh(cache, one.name)}`)
  }
}

/** What decides the addresses that are built of routes. */
const routesBuilt = (routes: Definition['routes']): string[] =>
  routes.map(({ route, pattern }) => JSON.stringify([route.name, pattern.text, route.params ?? null]))

/** Returns the query for given parameters: conditions on an absent optional parameter are left out. */
export function queryInForce(
  database: DataSource,
  { definition }: Site,
  query: SiteQuery,
  parameters: Readonly<Record<string, unknown>>,
): SiteQuery {
  const meaning = givenMeaning(query.meaning, parameters)
  if (meaning === query.meaning) return query
  const compile = (visibility: Visibility) =>
    compileQuery(database, meaning, visibility, definition, query.wanted)
  return { ...query, meaning, compiled: { reader: compile('reader'), author: compile('author') } }
}

/** The name of the 404 page's route. */
export const NOT_FOUND = 'not-found'

/** Yields everything that renders a template: routes and the 404 page. */
function* pagesOf({ routes, settings }: Definition) {
  for (const { route } of routes)
    if (route.template !== undefined)
      yield { name: route.name, template: route.template, data: route.data ?? {} }
  const rule = settings['not-found']
  if (rule) yield { name: NOT_FOUND, template: rule.template, data: rule.data ?? {} }
}

/** Returns what a page's templates, and the parameters of its other data, read of each of its data. */
function wantedOfPage(
  { templates, queries }: Definition,
  template: string,
  data: Readonly<Record<string, DataEntry>>,
): Map<string, { query: string; wanted: Wanted | undefined }> {
  const { reads, whole } = templates.fieldReads(template, Object.keys(data))
  const given = Object.values(data).flatMap((entry) =>
    typeof entry === 'string' ? [] : Object.values(entry.with ?? {}),
  )
  return new Map(
    Object.entries(data).map(([name, entry]) => {
      const query = typeof entry === 'string' ? entry : entry.query
      const meaning = queries.get(query)
      const paths = [
        ...reads.filter((one) => one.data === name).map((one) => one.path),
        ...given.filter((one) => one.startsWith(`${name}.`)).map((one) => one.split('.').slice(1)),
      ]
      return [name, { query, wanted: !meaning || whole.has(name) ? undefined : wantedOf(meaning, paths) }]
    }),
  )
}

/** Returns the address of an asset. It changes with the content, so that browsers can cache it forever. */
export function assetAddress(site: Site, name: string): string | undefined {
  const version = site.assetVersions.get(name)
  return version === undefined ? undefined : `/assets/${name}?v=${version}`
}
