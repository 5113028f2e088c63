/** All operations of the workbench's API: the one source for validation, types, the client and the OpenAPI document. */
import type { Static, TSchema } from 'typebox'
import { cacheOperations } from './cache.ts'
import { changeOperations } from './changes.ts'
import { checkOperations } from './checks.ts'
import { commentOperations } from './comments.ts'
import { contentOperations } from './content.ts'
import { documentOperations } from './documents.ts'
import { growthOperations } from './growth.ts'
import { htmlOperations } from './html.ts'
import { imageOperations } from './images.ts'
import { mailOperations } from './mail.ts'
import { pageOperations } from './pages.ts'
import { postOperations } from './posts.ts'
import { queryOperations } from './queries.ts'
import { routeOperations } from './routes.ts'
import { sessionOperations } from './session.ts'
import { slugOperations } from './slugs.ts'
import { termOperations } from './terms.ts'
import { templateOperations } from './templates.ts'
import { buildingOperations } from './building.ts'
import { walkOperations } from './walk.ts'

export const operations = {
  ...sessionOperations,
  ...walkOperations,
  ...documentOperations,
  ...buildingOperations,
  ...templateOperations,
  ...cacheOperations,
  ...routeOperations,
  ...slugOperations,
  ...queryOperations,
  ...growthOperations,
  ...checkOperations,
  ...changeOperations,
  ...commentOperations,
  ...mailOperations,
  ...postOperations,
  ...pageOperations,
  ...termOperations,
  ...imageOperations,
  ...contentOperations,
  ...htmlOperations,
}

export type Operations = typeof operations
export type OperationName = keyof Operations
type SchemaOf<Name extends OperationName, Key extends string> =
  Operations[Name] extends Record<Key, infer S extends TSchema> ? Static<S> : undefined
export type QueryOf<Name extends OperationName> = SchemaOf<Name, 'query'>
export type BodyOf<Name extends OperationName> = SchemaOf<Name, 'body'>
export type AnswerOf<Name extends OperationName> = SchemaOf<Name, 'answer'>
