/** The facts that rules work with. The server collects them from the definition and from the running blog. */
import type { Definition } from '../blog/definition.ts'
import type { OwnIndex } from '../queries/indexes.ts'
import type { RouteAnalysis } from '../routing/analysis/analysis.ts'
import type { CompiledRoute } from '../routing/addresses/compiled-route.ts'
import type { CommentProbe, ThreadProbes } from './comment-facts.ts'
import type { MarkdownFault } from '../content/html/markdown-faults.ts'
import type { SlugChange } from '../shapes/changes.ts'

export interface KnownAddress {
  route: string
  path: string
  /** The title or name of the row; null if the route has no parameters. */
  title: string | null
}

/** A response of the blog. */
export interface Answer {
  status: number
  location: string | null
  body: string
  /** The content security policy; null without one. */
  policy: string | null
  /** The name of the route that answered. */
  route: string | null
  failure: Failed | null
}

/** Why a page failed. `isBuild`: an address could not be built. */
export interface Failed {
  message: string
  document: string | null
  line: number | null
  isBuild: boolean
}

/** A fault in the markup of a page. */
export interface MarkupFault {
  /** The rule of html-validate. */
  rule: string
  /** A sentence. */
  message: string
  /** The tag with the fault. */
  markup: string
  /** The markup around it, from the tag before it. */
  context: string
}

/** What a browser has shown to be wrong with a page. */
export interface BrowserFault {
  /** `contrast` and `access`: a rule of axe-core; `overflow`: scrolls sideways; `script`: a script has failed. */
  kind: 'contrast' | 'access' | 'overflow' | 'script'
  /** The rule of axe-core, or the kind. */
  rule: string
  /** A sentence. */
  message: string
  /** The tag with the fault; empty if there is none. */
  markup: string
  /** The colour scheme in which it was found first. */
  scheme: 'light' | 'dark'
  /** What was measured, and what is needed, e.g. `2.9:1` and `4.5:1`. */
  actual: string | null
  expected: string | null
  /** The selector and the declaration of the style that causes it; null if it is not known. */
  style: { selector: string; declared: string } | null
}

export interface Link {
  /** As written, e.g. `/posts/zip-surgery#comments`. */
  href: string
  document: string
  line: number | null
  /** What it is in: `a template`, or the title of a post in quotes. */
  where: string
  /** False in unpublished posts. */
  isPublic: boolean
}

export interface FormerAddress {
  kind: string
  /** The route of its addresses; null if none builds an address from it. */
  route: string | null
  slug: string
  title: string
  /** The addresses that routes build from it. */
  paths: string[]
}

/** An image that a text or a template shows. */
export interface ShownImage {
  /** The address of the image, e.g. `/media/moth.svg`. */
  src: string
  document: string
  line: number | null
  /** What it is in: `a template`, or the title of a post in quotes. */
  where: string
  /** The address at which readers see it; null for unpublished posts and templates. */
  path: string | null
  /** False in unpublished posts. */
  isPublic: boolean
}

/** HTML that is typed in a text, and removed because it is not on the allow-list. */
export interface RemovedHtml {
  document: string
  title: string
  /** The address at which readers see the text; null if there is none. */
  path: string | null
  isPublic: boolean
  /** E.g. `<iframe>`, or `onclick of <a>`. */
  what: string
  times: number
}

/** Markdown that readers see as it was typed, or that swallows the rest of a text. */
export interface TypedMarkdown extends MarkdownFault {
  document: string
  title: string
  /** The address at which readers see the text; null if there is none. */
  path: string | null
  isPublic: boolean
}

/** A category with the number of its posts. */
export interface CategoryUse {
  slug: string
  name: string
  version: number
  paths: string[]
  published: number
  scheduled: number
  drafts: number
}

/** A row that has a slug. */
export interface SluggedItem {
  kind: 'post' | 'page' | 'category' | 'tag' | 'author'
  /** The path, for a page. */
  slug: string
  title: string
  /** Its address, now or once it is published; null if no route shows it. */
  path: string | null
  isPublic: boolean
}

/** A page that is different without the unpublished posts: something of them reaches readers. */
export interface Leak {
  path: string
  /** The type of the response. */
  accepts: 'html' | 'json'
  status: number
  statusWithout: number
  /** The queries whose rows are different, in the order in which they ran. */
  queries: readonly LeakingQuery[]
}

export interface LeakingQuery {
  query: string
  /** What is different, as a sentence. */
  difference: string
}

export interface Leaks {
  /** How many unpublished posts were looked for, and how many there are. */
  posts: number
  allPosts: number
  /** How many addresses were requested with them and without them. */
  addresses: number
  found: readonly Leak[]
}

/** The run of a query for a page. */
export interface PageQuery {
  data: string
  query: string
  /** The values of its parameters, as a text. */
  parameters: string
  statements: number
  rows: number
  /** How many lists of related rows it fetches. Each needs one more statement. */
  lists: number
  /** The number of rows on all pages of a paged list; null if it is not counted, and for other lists. */
  total: number | null
  isEstimated: boolean
  /** The titles of its rows. */
  shown: readonly string[]
  /** The documents of its rows, which identify them: titles can be the same. null for rows that are none. */
  documents: readonly (string | null)[]
  /** When its rows were published, in ISO 8601; null for rows other than published posts. */
  dates: readonly (string | null)[]
}

/** The measurement of a query with many posts. */
export interface MeasuredQuery {
  query: string
  /** The largest number of posts. */
  size: number
  /** The index that makes it faster, with the milliseconds of the first page; null if there is none. */
  advised: { index: OwnIndex; before: number; after: number } | null
}

/** What is known of the copies of a rule: of a route's pages, or of a fragment. */
export interface CopyRule {
  kind: 'page' | 'fragment'
  /** The route, or the fragment. */
  name: string
  document: string
  line: number | null
  refresh: 'on-change' | 'by-age' | 'both'
  /** In milliseconds. */
  lifetime: number
  /** How many copies were rendered, for how many addresses. */
  copies: number
  /** Two addresses of copies that differ in their keys only, if all copies are equal; null otherwise. */
  allEqual: readonly [string, string] | null
  /** An address that was made up and is kept nevertheless, and the parameter that was made up; null if none is. */
  madeUp: { address: string; parameter: string } | null
  /** A text that depends on the time, such as an age, is wrong after this time, in milliseconds; null without one. */
  wrongAfter: number | null
  /** An address at which it is; null if none was rendered. */
  address: string | null
  /** How often a copy was stored, and has answered, in the last hour. */
  stored: number
  answered: number
}

/** What readers would go on seeing after an edit. */
export interface OutlivedChange {
  /** The edit, as a clause. */
  edit: string
  address: string
  before: string
  after: string
  /** In milliseconds. */
  longest: number
}

export interface Facts {
  /** When the checks run. */
  now: Date
  /** The rules for copies that are kept. */
  copies(): Promise<readonly CopyRule[]>
  /** Rehearses edits until one leaves the copies of a rule that is refreshed by age as they are. */
  outlived(rule: CopyRule): Promise<OutlivedChange | undefined>
  /** What was found out about comments by adding some, which is rolled back. One result for each action. */
  comments(): Promise<readonly CommentProbe[]>
  /** Pages of posts that embed a thread of an outside service. */
  threads(): Promise<ThreadProbes>
  documents: ReadonlyMap<string, string>
  definition: Definition
  analysis(): Promise<RouteAnalysis>
  /** The existing addresses of GET routes, up to a limit per route, and their total number. */
  addresses(): Promise<{ known: readonly KnownAddress[]; total: number }>
  /** Requests addresses with the blog as it is, and with the blog as it would be without its unpublished posts. */
  leaks(): Promise<Leaks>
  /** The addresses that drafts and scheduled posts will have, up to a limit per route, and their total number. */
  hidden(): Promise<{ known: readonly KnownAddress[]; total: number }>
  /** Requests an address as a reader. The same address is requested only once. */
  request(path: string): Promise<Answer>
  /** Returns the status that a browser gets for a path, also for images, fonts and assets. */
  status(path: string): Promise<number>
  /** Requests an address as a reader, and renders the page for addresses that are not found. */
  page(path: string): Promise<Answer>
  /** Validates the markup of a page. */
  markupFaults(html: string): Promise<readonly MarkupFault[]>
  /** Why the template of error pages fails; undefined if it does not, or there is none. */
  errorTemplateFailure(): Promise<Omit<Failed, 'isBuild'> | undefined>
  /** The addresses of forms, one of each route. */
  forms(): Promise<readonly string[]>
  /** Sends a form without a text and with addresses that are none, which is refused and changes nothing. */
  refusedForm(path: string): Promise<Answer>
  /** Returns the queries that a page runs for a reader without stored fragments. The same page is walked only once. */
  queriesAt(path: string): Promise<readonly PageQuery[]>
  /** Returns how many rows a query returns for an address, and how many its source has. */
  rowsTaken(query: string, path: string): Promise<{ rows: number; all: number }>
  /** Returns two rows of a paged query that tie in its order, one at the end of a page and one at the start of the next. */
  tieAtPageEnd(query: string): Promise<{ first: string; second: string; page: number } | undefined>
  /** The measurements of queries that have not changed since. */
  measurements(): Promise<readonly MeasuredQuery[]>
  /** The literal links in templates, posts and pages. */
  links(): Promise<readonly Link[]>
  /** The images of this blog that templates, posts and pages show. */
  shownImages(): Promise<readonly ShownImage[]>
  /** The HTML that is removed from posts and pages, how many of them have tags, and how many of those were rendered. */
  removedHtml(): Promise<{ removed: readonly RemovedHtml[]; tested: number; of: number }>
  /** The faults in the Markdown of posts and pages, how many of them were read, and how many there are to read. */
  typedMarkdown(): Promise<{ typed: readonly TypedMarkdown[]; tested: number; of: number }>
  /** The names of all images. */
  images(): Promise<readonly string[]>
  categories(): Promise<readonly CategoryUse[]>
  /** The rows that have a slug, up to a limit per kind, and their total number. */
  slugged(): Promise<{ all: readonly SluggedItem[]; total: number }>
  former(): Promise<readonly FormerAddress[]>
  /** The addresses that were answered with 404, and how often. */
  notFound(): Promise<readonly { path: string; times: number }[]>
  /** Returns those slugs that belong to rows which readers can see, with their addresses and titles. */
  visibleBySlug(slugs: readonly string[]): Promise<ReadonlyMap<string, { path: string; title: string }>>
  /** Returns true if a route's query passes the request on to the next route when it finds no row. */
  passesOn(route: CompiledRoute): boolean
  /** Returns a document of the definition, or a post or page as a file; undefined if there is none. */
  document(path: string): Promise<string | undefined>
  /** Returns a change of the slug of an address's row to a similar free slug. */
  freeSlugFor(address: KnownAddress): Promise<SlugChange | undefined>
}

/** A page that was opened in a browser. */
export interface OpenedPage {
  address: string
  /** The template of the page, and those that it renders. */
  templates: readonly string[]
  faults: readonly BrowserFault[]
}

/** The facts that only a browser can tell. */
export interface BrowserFacts extends Facts {
  opened: readonly OpenedPage[]
  /** How many pages there are to choose from. */
  total: number
}
