/** The compiled definition of a blog. */
import type { RulesInForce } from '../comments/rules.ts'
import type { HtmlRules } from '../content/html/allow-list.ts'
import type { OwnIndex } from '../queries/indexes.ts'
import type { Say } from '../messages/say.ts'
import type { QueryMeaning } from '../queries/meaning.ts'
import type { AddressPolicy } from '../routing/addresses/address.ts'
import type { CompiledRoute } from '../routing/addresses/compiled-route.ts'
import type { RouteTable } from '../routing/addresses/table.ts'
import type { CacheRules } from '../shapes/cache-rules.ts'
import type { Settings } from '../shapes/schemas.ts'
import type { Place, PlaceOf } from '../shapes/yaml.ts'
import type { SlugRules } from '../slugs/slug.ts'
import type { TemplateSet } from '../templates/set.ts'

/** A definition with everything compiled that does not need a database. */
export interface Definition {
  settings: Settings
  timeZone: string
  /** Gives the texts of the blog itself to readers. */
  say: Say
  /** PostgreSQL's text search configuration for the blog's language. */
  searchConfiguration: string
  policy: AddressPolicy
  slugRules: SlugRules
  htmlRules: HtmlRules
  /** The comment rules of the blog, which routes may change. */
  comments: RulesInForce
  /** How copies of pages and fragments are refreshed. */
  cache: CacheRules
  routes: readonly CompiledRoute[]
  table: RouteTable
  /** Name → meaning. */
  queries: ReadonlyMap<string, QueryMeaning>
  /** Indexes that indexes.yaml adds to those that every blog has. */
  indexes: readonly OwnIndex[]
  templates: TemplateSet
  /** Asset name (`blog.css`) → text. */
  assets: ReadonlyMap<string, string>
  /** Route name → its place in routes.yaml. */
  routePlaces: ReadonlyMap<string, Place>
}

/** A definition whose documents are not checked against each other yet, with the places of its parts. */
export interface Draft extends Definition {
  routePlaceOf: PlaceOf
  settingsPlaceOf: PlaceOf
  cachePlaceOf: PlaceOf
}
