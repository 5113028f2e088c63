/** Generates the OpenAPI 3.1 document of the workbench's API from the contract. */
import type { Operation } from '../../contract/operation.ts'
import { operations } from '../../contract/operations.ts'
import { ProblemDetails } from '../../contract/problem.ts'
import { DOWNLOADS } from './content/downloads.ts'

interface ObjectSchema {
  properties?: Record<string, object & { description?: string }>
  required?: string[]
}

const plain = (schema: object): unknown => JSON.parse(JSON.stringify(schema))

export function openApiDocument(): object {
  const paths: Record<string, Record<string, object>> = {}
  for (const [key, operation] of Object.entries<Operation>(operations)) {
    const [method = 'GET', path = '/'] = key.split(' ')
    const query = operation.query as ObjectSchema | undefined
    const parameters = Object.entries(query?.properties ?? {}).map(([name, schema]) => ({
      name,
      in: 'query',
      required: query?.required?.includes(name) ?? false,
      schema: plain(schema),
    }))
    const body = operation.body
      ? {
          requestBody: {
            required: true,
            content: {
              [operation.upload ? 'application/octet-stream' : 'application/json']: {
                schema: plain(operation.body),
              },
            },
          },
        }
      : {}
    const problem = {
      description: 'Problem details (RFC 9457)',
      content: { 'application/problem+json': { schema: plain(ProblemDetails) } },
    }
    paths[path] ??= {}
    paths[path][method.toLowerCase()] = {
      operationId: key
        .replace(/[^A-Za-z]+/g, ' ')
        .trim()
        .replace(/ /g, '-')
        .toLowerCase(),
      summary: operation.summary,
      ...(parameters.length > 0 ? { parameters } : {}),
      ...body,
      responses: {
        '200': {
          description: operation.summary,
          content: { 'application/json': { schema: plain(operation.answer) } },
        },
        default: problem,
      },
    }
  }
  for (const { path, summary, type } of DOWNLOADS)
    paths[path] = {
      get: {
        operationId: path.slice('/api/'.length).replace(/[^a-z]+/g, '-'),
        summary,
        responses: { '200': { description: summary, content: { [type.replace(/;.*/, '')]: {} } } },
      },
    }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Esquina workbench',
      version: '1',
      description:
        'Requests need the workbench’s key: as a cookie in the browser, and as a bearer token elsewhere.',
    },
    security: [{ key: [] }],
    paths,
    components: {
      securitySchemes: {
        key: { type: 'http', scheme: 'bearer', description: 'The key that is printed when Esquina starts' },
      },
    },
  }
}
