/** The OpenAPI 3.1 document of a blog: what its routes with `json: true` answer to programs. */
import type { QueryMeaning, Take } from '../queries/meaning.ts'
import type { ParameterType, Route, Settings } from '../shapes/schemas.ts'
import { PARAMETER_RULES } from '../routing/patterns/parameters.ts'
import type { PatternPart } from '../routing/patterns/pattern.ts'
import type { CompiledRoute } from '../routing/addresses/compiled-route.ts'
import { resultSchema, type JsonSchema } from './shape.ts'

/** The parts of a definition that the document describes. */
export interface PublicApiSource {
  settings: Settings
  routes: readonly CompiledRoute[]
  queries: ReadonlyMap<string, QueryMeaning>
}

export const hasPublicApi = ({ routes }: Pick<PublicApiSource, 'routes'>): boolean =>
  routes.some(({ route }) => route.json === true)

const problem = (description: string): JsonSchema => ({
  description,
  content: {
    'application/problem+json': {
      schema: {
        type: 'object',
        description: 'Problem details (RFC 9457)',
        properties: {
          type: { type: 'string' },
          title: { type: 'string' },
          status: { type: 'integer' },
          detail: { type: 'string' },
          instance: { type: 'string', format: 'uri' },
        },
        required: ['title', 'status'],
      },
    },
  },
})
const elsewhere = {
  description: 'It has another address: follow Location',
  headers: { Location: { schema: { type: 'string', format: 'uri-reference' }, required: true } },
}

/** @param version of the definition */
export function publicApiDocument(definition: PublicApiSource, version: string): JsonSchema {
  const { settings, routes } = definition
  const paths: Record<string, JsonSchema> = {}
  for (const compiled of routes) {
    if (compiled.route.json !== true) continue
    for (const [index, { path, names }] of templatesOf(compiled.pattern.parts).entries())
      paths[path] ??= { get: operationOf(definition, compiled, names, index) }
  }
  return {
    openapi: '3.1.0',
    info: {
      title: settings.title,
      version,
      description: `${settings.tagline ?? settings.title}. Ask with “Accept: application/json”; pages of listings are linked in the Link header, too.`,
    },
    servers: [{ url: settings.origin ?? '/' }],
    paths,
  }
}

function operationOf(
  { queries }: PublicApiSource,
  { route, pattern, shared }: CompiledRoute,
  names: readonly string[],
  index: number,
): JsonSchema {
  const types = new Map(pattern.names.map((name, at) => [name, pattern.types[at] ?? 'text']))
  const data = Object.entries(route.data ?? {}).flatMap(([name, entry]) => {
    const meaning = queries.get(typeof entry === 'string' ? entry : entry.query)
    return meaning && !shared.has(name) ? [{ name, meaning }] : []
  })
  const properties = Object.fromEntries(data.map(({ name, meaning }) => [name, resultSchema(meaning)]))
  return {
    operationId: index === 0 ? route.name : `${route.name}-${index + 1}`,
    summary: route.heading ?? `Route “${route.name}”`,
    parameters: [
      ...names.map((name) => ({
        name: parameterName(name),
        in: 'path',
        required: true,
        schema: parameterSchema(types.get(name) ?? 'text'),
      })),
      ...queryParameters(
        route,
        data.map((one) => one.meaning.take),
      ),
    ],
    responses: {
      '200': {
        description: 'What its page shows',
        headers: {
          Link: {
            schema: { type: 'string' },
            description: 'other pages of its listings: first, prev, next, last (RFC 8288)',
          },
        },
        content: {
          'application/json': {
            schema: {
              type: 'object',
              properties,
              required: Object.keys(properties),
              additionalProperties: false,
            },
          },
        },
      },
      '301': elsewhere,
      '308': elsewhere,
      '404': problem('There is no page at this address'),
      default: problem('It could not be answered'),
    },
  }
}

function queryParameters(route: Route, takes: readonly Take[]): JsonSchema[] {
  const declared = Object.entries(route.query ?? {}).map(([name, type]) => ({
    name,
    in: 'query',
    required: false,
    schema: parameterSchema(type),
  }))
  const paged = takes.flatMap((take) =>
    take.kind !== 'pages'
      ? []
      : [
          {
            name: take.parameter,
            in: 'query',
            required: false,
            description:
              take.by === 'cursor'
                ? 'where the page begins: as given in links, not to be made'
                : 'page number; the first page has none',
            schema: take.by === 'cursor' ? { type: 'string' } : { type: 'integer', minimum: 2 },
          },
        ],
  )
  return [...declared, ...paged]
}

const NUMBERS: readonly ParameterType[] = ['integer', 'year', 'month', 'day']

function parameterSchema(type: ParameterType): JsonSchema {
  const { meaning, source } = PARAMETER_RULES[type]
  if (NUMBERS.includes(type)) return { type: 'integer', description: meaning }
  if (type === 'number') return { type: 'number', description: meaning }
  return { type: 'string', description: meaning, pattern: `^(?:${source})$` }
}

/** Parameters without a name are numbered in patterns. */
const parameterName = (name: string) => (/^\d+$/.test(name) ? `part-${name}` : name)

/** Most optional parts that are written out; a pattern with more is described by its longest form alone. */
const OPTIONAL = 4

/** A pattern as path templates: one for each choice of its optional parts, the longest first. */
function templatesOf(parts: readonly PatternPart[]): { path: string; names: string[] }[] {
  let made = [{ path: '', names: [] as string[] }]
  let optional = 0
  for (const part of parts) {
    const isOptional = part.modifier === '?' || part.modifier === '*'
    const text =
      part.kind === 'fixed' ? part.text : `${part.prefix}{${parameterName(part.name)}}${part.suffix}`
    const names = part.kind === 'fixed' ? [] : [part.name]
    const withIt = made.map((one) => ({ path: one.path + text, names: [...one.names, ...names] }))
    made = isOptional && ++optional <= OPTIONAL ? [...withIt, ...made] : withIt
  }
  return made.map((one) => ({ ...one, path: one.path === '' ? '/' : one.path }))
}
