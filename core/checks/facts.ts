/** What a rule may ask. The server answers by looking at the definition and by asking the running blog. */
import type { Definition } from '../blog/definition.ts'
import type { OwnIndex } from '../queries/indexes.ts'
import type { RouteAnalysis } from '../routing/analysis/analysis.ts'
import type { CompiledRoute } from '../routing/addresses/compiled-route.ts'

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
  /** False in what is not published yet. */
  isPublic: boolean
}

export interface FormerAddress {
  kind: string
  slug: string
  title: string
  /** Addresses that the routes make of it. */
  paths: string[]
}

export interface Picture {
  /** Address of the picture, e.g. `/media/moth.svg`. */
  src: string
  document: string
  line: number | null
  /** What it is in, in words. */
  where: string
  /** Where readers see it; null when they don’t, or when it is a template’s. */
  path: string | null
  /** False in what is not published yet. */
  isPublic: boolean
}

/** A category, with how many posts have it. */
export interface CategoryUse {
  slug: string
  name: string
  version: number
  paths: string[]
  published: number
  scheduled: number
  drafts: number
}

export interface Named {
  kind: 'post' | 'page' | 'category' | 'tag' | 'author'
  /** Of a page: the path. */
  slug: string
  title: string
  /** Where it is, or will be, found; null when no route shows it. */
  path: string | null
  isPublic: boolean
}

/** Where a post shows in a listing. */
export interface ListedAt {
  path: string
  query: string
  place: number
}

/** A query as a page asked it. */
export interface Asking {
  data: string
  query: string
  statements: number
  rows: number
  /** Lists of related rows that it has, each of them one statement more. */
  lists: number
  /** Its rows, by title. */
  shown: readonly string[]
}

/** A query measured over many posts. */
export interface MeasuredQuery {
  query: string
  /** Posts of the largest size. */
  size: number
  /** The index that was found to serve, with the milliseconds of the first page; null where none does better. */
  advised: { index: OwnIndex; before: number; after: number } | null
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
  /** The queries that a page asks a reader's database, with nothing kept. */
  asked(path: string): Promise<readonly Asking[]>
  /** How many rows a query takes for an address, and how many its source has in all. */
  rowsTaken(query: string, path: string): Promise<{ rows: number; all: number }>
  /** Two rows of a paged query that are the same in all it orders by, on both sides of the end of a page. */
  tieAtPageEnd(query: string): Promise<{ first: string; second: string; page: number } | undefined>
  /** Queries that were measured as they are now. */
  measurements(): Promise<readonly MeasuredQuery[]>
  /** Literal links in templates, posts and pages. */
  links(): Promise<readonly Link[]>
  /** Pictures in templates, posts and pages that are the blog’s own. */
  pictures(): Promise<readonly Picture[]>
  /** Names of the images there are. */
  images(): Promise<readonly string[]>
  categories(): Promise<readonly CategoryUse[]>
  /** Everything that has a slug; the first of each kind, and how many there are in all. */
  named(): Promise<{ all: readonly Named[]; total: number }>
  /** Listings that show a post to readers. */
  listedAt(slug: string): Promise<readonly ListedAt[]>
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
