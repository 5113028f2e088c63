/** What a rule may ask. The server answers by looking at the definition and by asking the running blog. */
import type { Definition } from '../definition/read.ts'
import type { RouteAnalysis } from '../routing/analysis.ts'
import type { CompiledRoute } from '../routing/match.ts'

export interface KnownAddress {
  route: string
  path: string
  /** Title or name of the row behind it; null where the route has no parameters. */
  title: string | null
}

/** What the blog answered. */
export interface Answer {
  status: number
  location: string | null
  body: string
  /** Name of the route that answered. */
  route: string | null
  failure: { message: string; document: string | null; line: number | null; isBuild: boolean } | null
}

export interface Link {
  /** As written, e.g. `/posts/zip-surgery#comments`. */
  href: string
  document: string
  line: number | null
  /** What it is in, in words: `the template`, or the title of a post. */
  where: string
}

export interface FormerAddress {
  kind: string
  slug: string
  title: string
  /** Addresses that the routes make of it. */
  paths: string[]
}

export interface Facts {
  documents: ReadonlyMap<string, string>
  definition: Definition
  analysis(): Promise<RouteAnalysis>
  /** Addresses that readers can ask for, of each route with GET; the first of them, and how many there are in all. */
  addresses(): Promise<{ known: readonly KnownAddress[]; total: number }>
  /** Addresses that drafts and scheduled posts would have. */
  hidden(): Promise<readonly KnownAddress[]>
  /** Asks the blog as a reader would; the same address once. */
  ask(path: string): Promise<Answer>
  /** Literal links in templates, posts and pages. */
  links(): Promise<readonly Link[]>
  former(): Promise<readonly FormerAddress[]>
  /** Addresses asked for in vain, with how often. */
  unanswered(): Promise<readonly { path: string; times: number }[]>
  /** Of some slugs, those that something has that readers can see: with the address it has now, and its title. */
  living(slugs: readonly string[]): Promise<ReadonlyMap<string, { path: string; title: string }>>
  /** True when a route's query lets the next route try where it finds nothing. */
  passesOn(route: CompiledRoute): boolean
  /** A document of the definition, or a post as a file; undefined where there is none. */
  document(path: string): Promise<string | undefined>
  /** A free slug like the given one, for the row behind an address. */
  freeSlugLike(
    address: KnownAddress,
  ): Promise<{ kind: 'post' | 'page' | 'category' | 'tag' | 'author'; from: string; to: string } | undefined>
}
