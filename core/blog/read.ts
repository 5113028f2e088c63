/** Reads the documents of a definition: the definition, or every problem with its place. */
import type { HtmlRules } from '../content/html/allow-list.ts'
import { isTimeZone } from '../content/times.ts'
import { searchConfiguration } from '../queries/search-language.ts'
import { isIndexable, isSameIndex, readIndexKey, type OwnIndex } from '../queries/indexes.ts'
import { readMeaning, type QueryMeaning } from '../queries/meaning.ts'
import { DEFAULT_POLICY, type AddressPolicy } from '../routing/addresses/address.ts'
import { compileRoute, type CompiledRoute } from '../routing/addresses/compiled-route.ts'
import { RouteTable } from '../routing/addresses/table.ts'
import { DEFAULT_SLUG_RULES, type SlugRules } from '../slugs/slug.ts'
import { TemplateSet } from '../templates/set.ts'
import { crossCheck } from './cross-check.ts'
import type { Definition } from './definition.ts'
import { documentKind, documentName, DOCUMENT_LIMIT, unknownName } from '../shapes/documents.ts'
import type { Problem } from '../shapes/problem.ts'
import { Indexes, Query, Routes, Settings } from '../shapes/schemas.ts'
import { readYaml, type Place, type PlaceOf } from '../shapes/yaml.ts'

export type DefinitionResult = { ok: true; definition: Definition } | { ok: false; problems: Problem[] }

/**
 * Reads all documents.
 * @param documents path → text
 */
export function readDefinition(documents: ReadonlyMap<string, string>): DefinitionResult {
  const problems: Problem[] = []
  for (const [file, text] of documents) {
    if (documentKind(file) === undefined) problems.push(unknownName(file))
    if (text.length > DOCUMENT_LIMIT)
      problems.push({ file, message: `the document is longer than ${DOCUMENT_LIMIT} characters` })
  }
  if (problems.length > 0) return { ok: false, problems }

  const settings = readSettings(documents, problems)
  const routes = readRoutes(documents, problems)
  const queries = readQueries(documents, problems)
  const timeZone = settings.value['time-zone'] ?? 'UTC'
  const htmlRules = htmlRulesOf(settings.value)
  const ofKind = (kind: string) =>
    [...documents]
      .filter(([path]) => documentKind(path) === kind)
      .map(([path, text]) => [documentName(path), text] as const)
  const templates = new TemplateSet(new Map(ofKind('template')), timeZone, htmlRules)
  problems.push(...templates.problems)
  const definition: Definition = {
    settings: settings.value,
    timeZone,
    searchConfiguration: searchConfiguration(settings.value.language),
    policy: policyOf(settings.value),
    slugRules: slugRulesOf(settings.value),
    htmlRules,
    routes: routes.compiled,
    table: new RouteTable(routes.compiled),
    queries,
    indexes: readIndexes(documents, problems),
    templates,
    assets: new Map(ofKind('asset')),
    routePlaces: routes.places,
  }
  if (problems.length === 0) {
    problems.push(
      ...crossCheck({ ...definition, routePlaceOf: routes.placeOf, settingsPlaceOf: settings.placeOf }),
    )
  }
  return problems.length > 0 ? { ok: false, problems } : { ok: true, definition }
}

const nowhere: PlaceOf = () => undefined

const slugRulesOf = ({ slugs }: Settings): SlugRules => ({
  maximum: slugs?.['max-length'] ?? DEFAULT_SLUG_RULES.maximum,
  reserved: new Set(slugs?.reserved ?? []),
})

const htmlRulesOf = ({ html }: Settings): HtmlRules => ({
  typed: html?.typed ?? true,
  without: new Set(html?.without ?? []),
})

const policyOf = ({ addresses }: Settings): AddressPolicy => ({
  letterCase: addresses?.['letter-case'] ?? DEFAULT_POLICY.letterCase,
  trailingSlash: addresses?.['trailing-slash'] ?? DEFAULT_POLICY.trailingSlash,
})

function readSettings(
  documents: ReadonlyMap<string, string>,
  problems: Problem[],
): { value: Settings; placeOf: PlaceOf } {
  const file = 'blog.yaml'
  const text = documents.get(file)
  if (text === undefined) {
    problems.push({ file, message: 'the settings are missing', hint: 'it needs at least “title: …”' })
    return { value: { title: 'Untitled' }, placeOf: nowhere }
  }
  const result = readYaml(file, text, Settings)
  if (!result.ok) {
    problems.push(...result.problems)
    return { value: { title: 'Untitled' }, placeOf: nowhere }
  }
  const zone = result.value['time-zone']
  if (zone !== undefined && !isTimeZone(zone)) {
    problems.push({
      file,
      path: '/time-zone',
      ...result.placeOf(['time-zone']),
      message: `“${zone}” is no time zone`,
      hint: 'for example Europe/London',
    })
  }
  return result
}

function readRoutes(documents: ReadonlyMap<string, string>, problems: Problem[]) {
  const file = 'routes.yaml'
  const none = { compiled: [] as CompiledRoute[], places: new Map<string, Place>(), placeOf: nowhere }
  const text = documents.get(file)
  if (text === undefined) {
    problems.push({
      file,
      message: 'the routes are missing',
      hint: 'it is a list of routes, each with name and path',
    })
    return none
  }
  const result = readYaml(file, text, Routes)
  if (!result.ok) {
    problems.push(...result.problems)
    return none
  }
  const compiled: CompiledRoute[] = []
  const places = new Map<string, Place>()
  for (const [index, route] of result.value.entries()) {
    const report = (key: string, message: string, hint?: string) =>
      problems.push({
        file,
        path: `/${index}/${key}`,
        ...result.placeOf([index, ...key.split('/')]),
        message,
        ...(hint === undefined ? {} : { hint }),
      })
    if (route.name === 'not-found')
      report('name', '“not-found” is the page for addresses that lead nowhere', 'choose another name')
    if (places.has(route.name)) report('name', `the name “${route.name}” is used twice`)
    const place = result.placeOf([index, 'name'])
    if (place) places.set(route.name, place)
    const answers = [route.template, route.action, route.redirect].filter((one) => one !== undefined).length
    if (answers !== 1) {
      report(
        'name',
        `route “${route.name}” answers with ${answers === 0 ? 'nothing' : 'several things'}`,
        'give it one of: template, action, redirect',
      )
    }
    const made = compileRoute(route)
    if (made.ok) compiled.push(made.compiled)
    else if (made.error.untaken === undefined)
      report('path', `in “${route.path}” at character ${made.error.at + 1}: ${made.error.message}`)
    else report(`params/${made.error.untaken}`, made.error.message, `its path is ${route.path}`)
  }
  return { compiled, places, placeOf: result.placeOf }
}

function readQueries(documents: ReadonlyMap<string, string>, problems: Problem[]): Map<string, QueryMeaning> {
  const queries = new Map<string, QueryMeaning>()
  for (const [file, text] of documents) {
    if (documentKind(file) !== 'query') continue
    const result = readYaml(file, text, Query)
    if (!result.ok) {
      problems.push(...result.problems)
      continue
    }
    const meaning = readMeaning(result.value)
    if (meaning.ok) queries.set(documentName(file), meaning.meaning)
    else {
      for (const { path, ...problem } of meaning.problems) {
        problems.push({ file, path: `/${path.join('/')}`, ...result.placeOf(path), ...problem })
      }
    }
  }
  return queries
}

function readIndexes(documents: ReadonlyMap<string, string>, problems: Problem[]): OwnIndex[] {
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
    const report = (path: (string | number)[], message: string, hint?: string) =>
      problems.push({
        file,
        path: `/${[at, ...path].join('/')}`,
        ...result.placeOf([at, ...path]),
        message,
        ...(hint === undefined ? {} : { hint }),
      })
    const index = { name, on, keys: keys.map(readIndexKey) }
    if (indexes.some((one) => one.name === name)) report(['name'], `the name “${name}” is used twice`)
    if (indexes.some((one) => isSameIndex(one, index)))
      report(['keys'], 'there is another index with the same keys', 'take one of them out')
    for (const [place, { field }] of index.keys.entries())
      if (!isIndexable(on, field))
        report(
          ['keys', place],
          `${on} cannot be indexed by “${field}”`,
          'name fields that are not long, or relations to one row',
        )
      else if (index.keys.findIndex((one) => one.field === field) !== place)
        report(['keys', place], `“${field}” is there twice`)
    indexes.push(index)
  }
  return indexes
}
