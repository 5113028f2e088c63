import type { Type } from './type.ts'

/** A page with the types of its data. */
export interface TypedPage {
  /** Its template. */
  page: string
  /** The name of its route; null for the 404 page and error pages. */
  route: string | null
  data: ReadonlyMap<string, Type>
  /** The names that all templates see. */
  globals: ReadonlyMap<string, Type>
  /** The parameters that are slugs, by route. It has all routes. */
  slugs: ReadonlyMap<string, ReadonlySet<string>>
}
