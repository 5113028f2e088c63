/** Checks the documents of a definition against each other: every name that one document uses must exist in another. */
import { CACHE_PROBLEMS } from '../caching/problems.ts'
import { CACHE_FILE } from '../caching/read-rules.ts'
import { isMessageName, placeholders, valuesOf } from '../messages/say.ts'
import { MESSAGE_NAMES } from '../messages/texts.ts'
import { parameterNames } from '../queries/arguments.ts'
import { fieldConditionsOf, parameterOf } from '../queries/clauses.ts'
import { findField } from '../queries/fields.ts'
import { clausesOf, type QueryMeaning } from '../queries/meaning.ts'
import type { FieldType } from '../queries/sources.ts'
import type { CompiledRoute } from '../routing/addresses/compiled-route.ts'
import { checkRedirect, type Path, type Report } from './check-redirect.ts'
import type { Worded } from '../shapes/catalogue.ts'
import { templatePath } from '../shapes/documents.ts'
import { placesOf } from '../shapes/embeds.ts'
import { article } from '../shapes/explain-errors.ts'
import type { Problem } from '../shapes/problem.ts'
import type { DataEntry, ParameterType } from '../shapes/schemas.ts'
import { suggestName } from '../shapes/suggest-name.ts'
import { ROBOTS_PATH } from '../syndication/sitemap.ts'
import { SECURITY_PATH } from '../syndication/security-txt.ts'
import { MOST_WHOLE_TEXTS } from '../syndication/whole-text.ts'
import { SHARED_NAMES } from '../templates/shared-names.ts'
import type { Draft } from './definition.ts'
import { DATA_PROBLEMS, REFERENCE_PROBLEMS, ROUTE_PROBLEMS, SETTINGS_PROBLEMS } from './problems.ts'

/** Names in every template's scope that a route's data must not use. Error pages also see `error`. */
const RESERVED_NAMES = [...SHARED_NAMES, 'error']

export function crossCheck(draft: Draft): Problem[] {
  return [
    ...draft.routes.flatMap((route, index) => checkRoute(draft, route, index)),
    ...checkSharedData(draft),
    ...checkNotFound(draft),
    ...checkMessages(draft),
    ...checkEmbeds(draft),
    ...checkErrorTemplate(draft),
    ...checkTemplates(draft),
    ...checkCache(draft),
  ]
}

function checkRoute(draft: Draft, { route, pattern }: CompiledRoute, index: number): Problem[] {
  const report: Report = (path, worded) => ({
    file: 'routes.yaml',
    path: `/${[index, ...path].join('/')}`,
    ...draft.routePlaceOf([index, ...path]),
    ...worded,
  })
  const address = { ...typesOf(pattern.names, route.params), ...route.query }
  const problems = [
    ...checkTemplateName(draft, route.template, ['template'], report),
    ...checkData(draft, route.data ?? {}, address, ['data'], report),
  ]
  if (route.action === 'add-comment') problems.push(...checkAddComment(draft, route, report))
  else if (route.then !== undefined)
    problems.push(report(['then'], ROUTE_PROBLEMS['route-then-without-action']()))
  if (route.json === true && route.template === undefined)
    problems.push(report(['json'], ROUTE_PROBLEMS['route-json-without-template']()))
  if (route.feed !== undefined && !listsPosts(draft, route))
    problems.push(report(['feed'], ROUTE_PROBLEMS['route-feed-needs-posts']()))
  if (route.texts !== undefined && route.feed === undefined)
    problems.push(report(['texts'], ROUTE_PROBLEMS['route-texts-without-feed']()))
  if (route.texts === 'full' && !listsFew(draft, route))
    problems.push(report(['texts'], ROUTE_PROBLEMS['route-texts-too-many'](MOST_WHOLE_TEXTS)))
  if (route.security && route.path !== SECURITY_PATH)
    problems.push(report(['path'], ROUTE_PROBLEMS['route-security-elsewhere'](route.path, SECURITY_PATH)))
  if (route.robots === true && route.path !== ROBOTS_PATH)
    problems.push(report(['path'], ROUTE_PROBLEMS['route-robots-elsewhere'](route.path, ROBOTS_PATH)))
  if (route.redirect) problems.push(...checkRedirect(draft, route, pattern, report))
  return problems
}

/** Whether one of a route's data is a list of posts. An unknown query is reported where it is named. */
const listsPosts = ({ queries }: Draft, { data = {} }: CompiledRoute['route']): boolean =>
  Object.values(data).some((entry) => {
    const meaning = queries.get(typeof entry === 'string' ? entry : entry.query)
    return (
      !meaning || (meaning.from === 'posts' && meaning.take.kind !== 'one' && meaning.countBy.length === 0)
    )
  })

/** Whether the lists of posts of a route are short enough for whole texts. */
const listsFew = ({ queries }: Draft, { data = {} }: CompiledRoute['route']): boolean =>
  Object.values(data).every((entry) => {
    const meaning = queries.get(typeof entry === 'string' ? entry : entry.query)
    if (meaning?.from !== 'posts') return true
    const { take } = meaning
    if (take.kind === 'all') return false
    return (take.kind === 'first' ? take.count : take.kind === 'pages' ? take.size : 1) <= MOST_WHOLE_TEXTS
  })

function checkTemplateName(draft: Draft, name: string | undefined, path: Path, report: Report): Problem[] {
  if (name === undefined || draft.templates.has(name)) return []
  const pages = [...draft.templates.mentions()].map(([one]) => one).filter((one) => one.startsWith('pages/'))
  return [report(path, REFERENCE_PROBLEMS['template-unknown'](name, suggestName(name, pages)))]
}

function checkAddComment(draft: Draft, route: CompiledRoute['route'], report: Report): Problem[] {
  const post = route.data?.['post']
  const query =
    post === undefined ? undefined : draft.queries.get(typeof post === 'string' ? post : post.query)
  // An unknown query is reported where it is named.
  if (post !== undefined && !query) return []
  const problems: Problem[] = []
  if (query?.from !== 'posts' || query.take.kind !== 'one')
    problems.push(report(['action'], ROUTE_PROBLEMS['route-comment-needs-post']()))
  else if (!query.named.includes('published'))
    problems.push(report(['data', 'post'], ROUTE_PROBLEMS['route-comment-post-not-published']()))
  const names = draft.routes.map((one) => one.route.name)
  const then = draft.routes.find((one) => one.route.name === route.then)
  if (!then?.route.template)
    problems.push(
      report(
        [route.then === undefined ? 'action' : 'then'],
        ROUTE_PROBLEMS['route-comment-needs-then'](suggestName(route.then ?? 'post', names)),
      ),
    )
  return problems
}

/** Parameters of an address: name → type. */
type AddressTypes = Readonly<Record<string, ParameterType>>

function checkData(
  draft: Draft,
  data: Readonly<Record<string, DataEntry>>,
  address: AddressTypes,
  path: Path,
  report: Report,
): Problem[] {
  const problems: Problem[] = []
  /** Page parameter → the data that uses it. */
  const pageParameters = new Map<string, string>()
  for (const [name, entry] of Object.entries(data)) {
    const queryName = typeof entry === 'string' ? entry : entry.query
    const given = typeof entry === 'string' ? {} : (entry.with ?? {})
    const at = [...path, name]
    if (RESERVED_NAMES.includes(name)) problems.push(report(at, DATA_PROBLEMS['data-name-reserved'](name)))
    const meaning = draft.queries.get(queryName)
    if (!meaning) {
      const hint = suggestName(queryName, [...draft.queries.keys()])
      problems.push(report(at, DATA_PROBLEMS['data-query-unknown'](queryName, hint)))
      continue
    }
    problems.push(
      ...parameterProblems(queryName, meaning, given, address).map((worded) => report(at, worded)),
      ...checkArguments(queryName, meaning, given, [...Object.keys(address), ...Object.keys(data)]).map(
        ({ parameter, worded }) => report([...at, 'with', parameter], worded),
      ),
    )
    if (meaning.take.kind !== 'pages') continue
    const { parameter } = meaning.take
    const other = pageParameters.get(parameter)
    if (other !== undefined)
      problems.push(report(at, DATA_PROBLEMS['data-page-parameter-shared'](name, other, parameter)))
    pageParameters.set(parameter, name)
  }
  const cycle = cyclicData(data)
  if (cycle) problems.push(report(path, DATA_PROBLEMS['data-cycle'](cycle)))
  return problems
}

type Arguments = Readonly<Record<string, string>>

/** Returns what is wrong with the parameters that a query takes from the address. */
function parameterProblems(
  queryName: string,
  meaning: QueryMeaning,
  given: Arguments,
  address: AddressTypes,
): Worded[] {
  const missing = meaning.parameters.filter(
    (one) => !Object.hasOwn(given, one) && !Object.hasOwn(address, one) && !meaning.optional.includes(one),
  )
  const illTyped = fieldConditionsOf(clausesOf(meaning)).flatMap(({ field, to }) => {
    const parameter = parameterOf(to)
    if (parameter === undefined || Object.hasOwn(given, parameter) || !Object.hasOwn(address, parameter))
      return []
    const type = address[parameter]
    const wanted = findField(meaning.from, field)?.field.type
    return type === undefined || wanted === undefined || comparable(type, wanted)
      ? []
      : [DATA_PROBLEMS['data-parameter-type'](parameter, article(type), queryName, article(wanted))]
  })
  return [...missing.map((one) => DATA_PROBLEMS['data-parameter-missing'](queryName, one)), ...illTyped]
}

/** Returns what is wrong with the expressions in `with:`. */
function checkArguments(
  queryName: string,
  meaning: QueryMeaning,
  given: Arguments,
  known: readonly string[],
): { parameter: string; worded: Worded }[] {
  return Object.entries(given).flatMap(([parameter, expression]) => [
    ...(meaning.parameters.includes(parameter)
      ? []
      : [{ parameter, worded: DATA_PROBLEMS['data-parameter-unused'](queryName, parameter) }]),
    ...parameterNames(expression)
      .filter((one) => !known.includes(one))
      .map((one) => ({
        parameter,
        worded: DATA_PROBLEMS['data-value-unknown'](one, suggestName(one, known)),
      })),
  ])
}

const typesOf = (
  names: readonly string[],
  declared: Readonly<Record<string, ParameterType>> = {},
): Record<string, ParameterType> =>
  Object.fromEntries(
    names.map((name) => [name, (Object.hasOwn(declared, name) ? declared[name] : undefined) ?? 'text']),
  )

/**
 * True if values of a parameter type can be compared with a field: texts with texts, integers with integers. As a
 * number, “007” is 7 and would not match the slug “007”; and 1.5 is no integer that PostgreSQL could compare.
 */
function comparable(type: ParameterType, field: FieldType): boolean {
  if (field === 'integer') return ['integer', 'year', 'month', 'day'].includes(type)
  return ['text', 'slug', 'path', 'words'].includes(field) && ['text', 'slug', 'path', 'uuid'].includes(type)
}

/** Finds data that depends on itself; returns the cycle, with its first name repeated at the end. */
function cyclicData(data: Readonly<Record<string, DataEntry>>): string[] | undefined {
  const needs = (name: string) => {
    const entry = data[name]
    return typeof entry === 'object'
      ? Object.values(entry.with ?? {})
          .flatMap(parameterNames)
          .filter((one) => Object.hasOwn(data, one))
      : []
  }
  // Names that lead to no cycle are not followed again; otherwise the time would grow exponentially.
  const free = new Set<string>()
  const follow = (name: string, seen: string[]): string[] | undefined => {
    if (seen.includes(name)) return [...seen.slice(seen.indexOf(name)), name]
    if (free.has(name)) return undefined
    for (const next of needs(name)) {
      const cycle = follow(next, [...seen, name])
      if (cycle) return cycle
    }
    free.add(name)
    return undefined
  }
  for (const name of Object.keys(data)) {
    const cycle = follow(name, [])
    if (cycle) return cycle
  }
  return undefined
}

function checkSharedData(draft: Draft): Problem[] {
  const { data = {} } = draft.settings
  const report = settingsReport(draft, 'data')
  return [
    ...checkData(draft, data, {}, [], report),
    ...Object.entries(data).flatMap(([name, entry]) => {
      const query = typeof entry === 'string' ? entry : entry.query
      const meaning = draft.queries.get(query)
      if (!meaning) return []
      if (meaning.take.kind === 'pages')
        return [report([name], DATA_PROBLEMS['data-shared-pages'](name, query))]
      return meaning.empty === 'allow'
        ? []
        : [report([name], DATA_PROBLEMS['data-shared-decides'](name, query))]
    }),
  ]
}

function checkNotFound(draft: Draft): Problem[] {
  const rule = draft.settings['not-found']
  if (!rule) return []
  const report = settingsReport(draft, 'not-found')
  return [
    ...checkData(draft, rule.data ?? {}, {}, ['data'], report),
    ...checkTemplateName(draft, rule.template, ['template'], report),
  ]
}

const settingsReport =
  (draft: Draft, key: string): Report =>
  (path, worded) => ({
    file: 'blog.yaml',
    path: `/${[key, ...path].join('/')}`,
    ...draft.settingsPlaceOf([key, ...path]),
    ...worded,
  })

/** The frame of an embed takes its values from the address that authors write. */
function checkEmbeds(draft: Draft): Problem[] {
  const report = settingsReport(draft, 'embeds')
  return (draft.settings.embeds ?? []).flatMap(({ address, frame }, index) => {
    const places = placesOf(address)
    return [
      ...(places.length === 0
        ? [report([index, 'address'], SETTINGS_PROBLEMS['embed-without-place'](address))]
        : []),
      ...placesOf(frame)
        .filter((one) => !places.includes(one))
        .map((one) => report([index, 'frame'], SETTINGS_PROBLEMS['embed-value-unknown'](one, places))),
    ]
  })
}

function checkMessages(draft: Draft): Problem[] {
  const report = settingsReport(draft, 'messages')
  return Object.entries(draft.settings.messages ?? {}).flatMap(([name, text]) => {
    if (!isMessageName(name))
      return [report([name], SETTINGS_PROBLEMS['message-unknown'](name, suggestName(name, MESSAGE_NAMES)))]
    const values = valuesOf(name)
    return placeholders(text)
      .filter((one) => !values.includes(one))
      .map((one) => report([name], SETTINGS_PROBLEMS['message-value-unknown'](name, one, values)))
  })
}

/** What the template of error pages can read. It has no data, since the database may be the reason for the error. */
const ERROR_NAMES = ['blog', 'error', 'request', 'heading', 'visitor', 'now']

function checkErrorTemplate(draft: Draft): Problem[] {
  const { error } = draft.settings
  if (error === undefined) return []
  const report = settingsReport(draft, 'error')
  if (!draft.templates.has(error)) return checkTemplateName(draft, error, [], report)
  return [...draft.templates.names(error).all]
    .filter((one) => !ERROR_NAMES.includes(one))
    .map((one) => report([], SETTINGS_PROBLEMS['error-template-reads'](error, one, ERROR_NAMES)))
}

function checkTemplates(draft: Draft): Problem[] {
  const routes = new Map(draft.routes.map((one) => [one.route.name, one]))
  const problems: Problem[] = []
  for (const [name, { urls, assets }] of draft.templates.mentions()) {
    const file = templatePath(name)
    for (const { route, parameters, place } of urls)
      for (const worded of urlProblems(routes, route, parameters))
        problems.push({ file, ...place, ...worded })
    for (const { name: asset, place } of assets)
      if (!draft.assets.has(asset)) {
        const hint = suggestName(asset, [...draft.assets.keys()])
        problems.push({ file, ...place, ...REFERENCE_PROBLEMS['template-asset-unknown'](asset, hint) })
      }
  }
  return problems
}

/** Returns what is wrong with a `url` filter on a route's name. */
function urlProblems(
  routes: ReadonlyMap<string, CompiledRoute>,
  name: string,
  given: readonly string[],
): Worded[] {
  const route = routes.get(name)
  if (!route)
    return [REFERENCE_PROBLEMS['template-route-unknown'](name, suggestName(name, [...routes.keys()]))]
  const { parts, names, text } = route.pattern
  const required = parts.flatMap((part) =>
    part.kind === 'parameter' && part.modifier !== '?' && part.modifier !== '*' ? [part.name] : [],
  )
  return [
    ...required
      .filter((one) => !given.includes(one))
      .map((one) => REFERENCE_PROBLEMS['template-route-parameter-missing'](name, one)),
    ...given
      .filter((one) => !names.includes(one))
      .map((one) => REFERENCE_PROBLEMS['template-route-parameter-unknown'](name, one, text)),
  ]
}

/** Checks that the routes and fragments of the cache rules exist. */
function checkCache({ cache, routes, templates, cachePlaceOf }: Draft): Problem[] {
  const report: Report = (path, worded) => ({
    file: CACHE_FILE,
    path: `/${path.join('/')}`,
    ...cachePlaceOf(path),
    ...worded,
  })
  const names = routes.map((one) => one.route.name)
  const fragments = templates.fragments().map((one) => one.name)
  return [
    ...Object.keys(cache.pages ?? {}).flatMap((name) => {
      const route = routes.find((one) => one.route.name === name)?.route
      if (!route)
        return [
          report(['pages', name], CACHE_PROBLEMS['cache-route-unknown'](name, suggestName(name, names))),
        ]
      return route.template === undefined
        ? [report(['pages', name], CACHE_PROBLEMS['cache-route-without-page'](name))]
        : []
    }),
    ...Object.keys(cache.fragments ?? {})
      .filter((name) => !fragments.includes(name))
      .map((name) =>
        report(
          ['fragments', name],
          CACHE_PROBLEMS['cache-fragment-unknown'](name, suggestName(name, fragments)),
        ),
      ),
  ]
}
