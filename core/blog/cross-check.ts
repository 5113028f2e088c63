/** Holds the documents of a definition against each other: every name that one uses, another must have. */
import { parameterNames } from '../queries/arguments.ts'
import { fieldConditionsOf, parameterOf } from '../queries/clauses.ts'
import { findField } from '../queries/fields.ts'
import { clausesOf } from '../queries/meaning.ts'
import type { FieldType } from '../queries/sources.ts'
import { redirectParameters } from '../routing/addresses/redirect.ts'
import type { CompiledRoute } from '../routing/addresses/compiled-route.ts'
import { article } from '../shapes/explain-errors.ts'
import { suggestName } from '../shapes/suggest-name.ts'
import { templatePath } from '../shapes/documents.ts'
import type { Problem } from '../shapes/problem.ts'
import type { Draft } from './definition.ts'
import type { DataEntry, ParameterType, Settings } from '../shapes/schemas.ts'

/** Names that stand in every template's scope and may not be used for a route's data. */
const RESERVED_NAMES = ['blog', 'request', 'navigation', 'now', 'visitor', 'form', 'heading', 'nearest']

export function crossCheck(draft: Draft): Problem[] {
  return [
    ...draft.routes.flatMap((route, index) => checkRoute(draft, route, index)),
    ...checkNotFound(draft),
    ...checkTemplates(draft),
  ]
}

type Report = (path: (string | number)[], message: string, hint?: string) => Problem

function checkRoute(draft: Draft, { route, pattern }: CompiledRoute, index: number): Problem[] {
  const report: Report = (path, message, hint) => ({
    file: 'routes.yaml',
    path: `/${[index, ...path].join('/')}`,
    ...draft.routePlaceOf([index, ...path]),
    message,
    ...(hint === undefined ? {} : { hint }),
  })
  const problems: Problem[] = []
  if (route.template !== undefined && !draft.templates.has(route.template)) {
    problems.push(
      report(
        ['template'],
        `there is no template “${route.template}”`,
        suggestName(route.template, pageNames(draft)),
      ),
    )
  }
  problems.push(
    ...checkData(
      draft,
      route.data ?? {},
      [...pattern.names, ...Object.keys(route.query ?? {})],
      ['data'],
      report,
      { ...typesOf(pattern.names, route.params), ...route.query },
    ),
  )
  if (route.action === 'add-comment') problems.push(...checkAddComment(draft, route, report))
  else if (route.then !== undefined) problems.push(report(['then'], '“then” goes with “action”'))
  if (route.json === true && route.template === undefined)
    problems.push(report(['json'], '“json” goes with “template”: it gives programs the data of the page'))
  if (route.redirect) problems.push(...checkRedirect(route, pattern, report))
  return problems
}

function checkRedirect(
  { redirect, data, heading }: CompiledRoute['route'],
  pattern: CompiledRoute['pattern'],
  report: Report,
): Problem[] {
  const problems: Problem[] = []
  for (const key of ['data', 'heading'] as const)
    if ((key === 'data' ? data : heading) !== undefined)
      problems.push(report([key], `a redirect shows nothing, so it needs no “${key}”`))
  for (const name of redirectParameters(redirect?.to ?? ''))
    if (!pattern.names.includes(name))
      problems.push(
        report(
          ['redirect', 'to'],
          `the path has no parameter “${name}”`,
          pattern.names.length === 0 ? `its path is ${pattern.text}` : suggestName(name, pattern.names),
        ),
      )
  return problems
}

function checkAddComment(draft: Draft, route: CompiledRoute['route'], report: Report): Problem[] {
  const post = route.data?.['post']
  const query =
    post === undefined ? undefined : draft.queries.get(typeof post === 'string' ? post : post.query)
  const then = draft.routes.find((one) => one.route.name === route.then)
  const problems: Problem[] = []
  // A query that is not there is told where it is named.
  if (post !== undefined && !query) return problems
  if (query?.from !== 'posts' || query.take.kind !== 'one') {
    problems.push(
      report(
        ['action'],
        'add-comment needs to know the post',
        'give it “data: { post: … }” with a query that takes one post',
      ),
    )
  } else if (!query.named.includes('published')) {
    problems.push(
      report(
        ['data', 'post'],
        'comments may be sent only to posts that a reader may see',
        'add “published” to the query',
      ),
    )
  }
  if (!then?.route.template) {
    problems.push(
      report(
        [route.then === undefined ? 'action' : 'then'],
        'add-comment needs “then”: the route of the page that shows the comment',
        suggestName(
          route.then ?? 'post',
          draft.routes.map((one) => one.route.name),
        ),
      ),
    )
  }
  return problems
}

function checkData(
  draft: Draft,
  data: Readonly<Record<string, DataEntry>>,
  parameters: readonly string[],
  path: (string | number)[],
  report: Report,
  types: Readonly<Record<string, ParameterType>> = {},
): Problem[] {
  const problems: Problem[] = []
  const pageParameters = new Map<string, string>()
  for (const [name, entry] of Object.entries(data)) {
    const queryName = typeof entry === 'string' ? entry : entry.query
    const given = typeof entry === 'string' ? {} : (entry.with ?? {})
    const meaning = draft.queries.get(queryName)
    const at = [...path, name]
    if (RESERVED_NAMES.includes(name))
      problems.push(report(at, `“${name}” stands for something else in templates`, 'choose another name'))
    if (!meaning) {
      problems.push(
        report(at, `there is no query “${queryName}”`, suggestName(queryName, [...draft.queries.keys()])),
      )
      continue
    }
    for (const parameter of meaning.parameters) {
      const isMissing = !Object.hasOwn(given, parameter) && !parameters.includes(parameter)
      if (isMissing && !meaning.optional.includes(parameter)) {
        problems.push(
          report(
            at,
            `query “${queryName}” needs “${parameter}”, which the address does not have`,
            `give it: { query: ${queryName}, with: { ${parameter}: … } }`,
          ),
        )
      }
    }
    for (const { field, to } of fieldConditionsOf(clausesOf(meaning))) {
      const parameter = parameterOf(to)
      const type =
        parameter === undefined || Object.hasOwn(given, parameter) || !Object.hasOwn(types, parameter)
          ? undefined
          : types[parameter]
      const wanted = findField(meaning.from, field)?.field.type
      if (type === undefined || wanted === undefined || comparable(type, wanted)) continue
      problems.push(
        report(
          at,
          `“${parameter ?? ''}” is ${article(type)}, and query “${queryName}” compares it with ${article(wanted)}`,
          `give the parameter another type in “params”`,
        ),
      )
    }
    for (const [parameter, expression] of Object.entries(given)) {
      const place = [...at, 'with', parameter]
      if (!meaning.parameters.includes(parameter))
        problems.push(report(place, `query “${queryName}” has no parameter “${parameter}”`))
      for (const used of parameterNames(expression)) {
        if (!parameters.includes(used) && !Object.hasOwn(data, used)) {
          problems.push(
            report(
              place,
              `“${used}” is neither a parameter of the address nor data of this route`,
              suggestName(used, [...parameters, ...Object.keys(data)]),
            ),
          )
        }
      }
    }
    if (meaning.take.kind === 'pages') {
      const other = pageParameters.get(meaning.take.parameter)
      if (other !== undefined)
        problems.push(
          report(
            at,
            `“${name}” and “${other}” turn their pages by the same ?${meaning.take.parameter}=`,
            'give one of the queries another “pages: { parameter: … }”',
          ),
        )
      pageParameters.set(meaning.take.parameter, name)
    }
  }
  const cycle = cyclicData(data)
  if (cycle) problems.push(report(path, `the data needs itself: ${cycle.join(' → ')}`))
  return problems
}

const typesOf = (
  names: readonly string[],
  declared: Readonly<Record<string, ParameterType>> = {},
): Record<string, ParameterType> =>
  Object.fromEntries(
    names.map((name) => [name, (Object.hasOwn(declared, name) ? declared[name] : undefined) ?? 'text']),
  )

/**
 * True when a value of the parameter's type can be compared with a field: texts with texts, whole numbers with whole
 * numbers. A number made of “007” is 7 and would miss the slug “007”.
 */
function comparable(type: ParameterType, field: FieldType): boolean {
  if (field === 'integer') return ['integer', 'year', 'month', 'day'].includes(type)
  return ['text', 'slug', 'path', 'words'].includes(field) && ['text', 'slug', 'path', 'uuid'].includes(type)
}

/** Names that need each other's values in a circle. */
function cyclicData(data: Readonly<Record<string, DataEntry>>): string[] | undefined {
  const needs = (name: string) => {
    const entry = data[name]
    return typeof entry === 'object'
      ? Object.values(entry.with ?? {})
          .flatMap(parameterNames)
          .filter((one) => Object.hasOwn(data, one))
      : []
  }
  // Names from which no circle is reached; without them, names that need many others would be followed again and again.
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

function checkNotFound(draft: Draft): Problem[] {
  const rule: Settings['not-found'] = draft.settings['not-found']
  if (!rule) return []
  const report: Report = (path, message, hint) => ({
    file: 'blog.yaml',
    path: `/not-found/${path.join('/')}`,
    ...draft.settingsPlaceOf(['not-found', ...path]),
    message,
    ...(hint === undefined ? {} : { hint }),
  })
  const problems = checkData(draft, rule.data ?? {}, [], ['data'], report)
  if (!draft.templates.has(rule.template))
    problems.push(
      report(
        ['template'],
        `there is no template “${rule.template}”`,
        suggestName(rule.template, pageNames(draft)),
      ),
    )
  return problems
}

function checkTemplates(draft: Draft): Problem[] {
  const problems: Problem[] = []
  for (const [name, mentions] of draft.templates.mentions()) {
    const file = templatePath(name)
    for (const { route: wanted, parameters, place } of mentions.urls) {
      const route = draft.routes.find((one) => one.route.name === wanted)
      if (!route) {
        problems.push({
          file,
          ...place,
          message: `there is no route “${wanted}”`,
          hint: suggestName(
            wanted,
            draft.routes.map((one) => one.route.name),
          ),
        })
        continue
      }
      for (const part of route.pattern.parts) {
        if (
          part.kind !== 'parameter' ||
          part.modifier === '?' ||
          part.modifier === '*' ||
          parameters.includes(part.name)
        )
          continue
        problems.push({
          file,
          ...place,
          message: `route “${wanted}” needs “${part.name}”`,
          hint: `{{ "${wanted}" | url: ${part.name}: … }}`,
        })
      }
      for (const extra of parameters.filter((one) => !route.pattern.names.includes(one))) {
        problems.push({
          file,
          ...place,
          message: `route “${wanted}” has no parameter “${extra}”`,
          hint: `its path is ${route.pattern.text}`,
        })
      }
    }
    for (const { name: asset, place } of mentions.assets) {
      if (!draft.assets.has(asset))
        problems.push({
          file,
          ...place,
          message: `there is no asset “${asset}”`,
          hint: suggestName(asset, [...draft.assets.keys()]),
        })
    }
  }
  return problems
}

const pageNames = (draft: Draft) =>
  [...draft.templates.mentions()].map(([name]) => name).filter((name) => name.startsWith('pages/'))
