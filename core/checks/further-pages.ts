/** Finds further pages of listings: of an address with enough posts, and of a search. */
import type { QueryMeaning } from '../queries/meaning.ts'
import type { CompiledRoute } from '../routing/addresses/compiled-route.ts'
import { queriesOf } from '../shapes/route-data.ts'
import type { Facts } from './facts.ts'
import { ownPath } from './page/addresses.ts'
import { readPage } from './page/read-page.ts'

/** Addresses of a route that are tried until one has a second page. */
const TRIED = 50
/** Words of titles that are searched for to get a second page. */
const WORDS = 8

export interface PagedPosts {
  query: string
  meaning: QueryMeaning
  take: QueryMeaning['take'] & { kind: 'pages' }
}

/** Returns the paged list of posts of a route's page; undefined without one. */
export function pagedPosts({ definition }: Facts, { route }: CompiledRoute): PagedPosts | undefined {
  if (route.template === undefined) return undefined
  for (const query of queriesOf(route)) {
    const meaning = definition.queries.get(query)
    if (meaning?.from === 'posts' && meaning.take.kind === 'pages')
      return { query, meaning, take: meaning.take }
  }
  return undefined
}

const known = new WeakMap<Facts, Map<string, Promise<string[]>>>()

/** Returns pages of a listing after the first, once per run. A listing by cursor has those that its first page links to. */
export function furtherPages(facts: Facts, compiled: CompiledRoute, paged: PagedPosts): Promise<string[]> {
  let ofRun = known.get(facts)
  if (!ofRun) known.set(facts, (ofRun = new Map()))
  const { name } = compiled.route
  let pages = ofRun.get(name)
  if (!pages) ofRun.set(name, (pages = findFurther(facts, compiled, paged)))
  return pages
}

async function findFurther(
  facts: Facts,
  { route }: CompiledRoute,
  { query, take: { parameter, by, size } }: PagedPosts,
): Promise<string[]> {
  const all = (await facts.addresses()).known
  const pages: string[] = []
  const add = async (path: string) => {
    if ((await facts.request(path)).status !== 200) return
    // Beyond the last page, a listing may show its last page, or none.
    const run = (await facts.queriesAt(path)).find((one) => one.query === query)
    if (run && run.rows > 0 && (run.total === null || run.total > size)) pages.push(path)
  }
  for (const { path } of all.filter((one) => one.route === route.name).slice(0, TRIED)) {
    if (pages.length > 0) break
    const second = by === 'number' ? `${path}?${parameter}=2` : await linkedPage(facts, path, parameter)
    if (second !== undefined) await add(second)
  }
  const [search] = searchParameters(route.query)
  if (search === undefined || by === 'cursor' || /:/.test(route.path)) return pages
  for (const word of await frequentWords(facts)) {
    const before = pages.length
    await add(`${route.path}?${search}=${encodeURIComponent(word)}&${parameter}=2`)
    if (pages.length > before) break
  }
  return pages
}

/** Returns an address with a page parameter that a page links to. */
async function linkedPage(facts: Facts, path: string, parameter: string): Promise<string | undefined> {
  for (const { href } of readPage((await facts.request(path)).body).links) {
    const target = ownPath(href, path)
    if (target === undefined || target.split('?')[0] !== path) continue
    if (new URLSearchParams(target.split('?')[1]).has(parameter)) return target
  }
  return undefined
}

/** Returns the parameters of a query string that may be searched for. */
export const searchParameters = (query: Readonly<Record<string, string>> = {}): string[] =>
  Object.entries(query).flatMap(([name, type]) => (type === 'text' ? [name] : []))

/** Short words are often stop words, which a search ignores. */
const WORD_LENGTHS = [/\p{L}{5,}/gu, /\p{L}{2,}/gu]

/** Returns words of the titles of published posts, those in most titles first. */
export async function frequentWords(facts: Facts): Promise<string[]> {
  const titles = (await facts.slugged()).all.flatMap(({ kind, title, isPublic }) =>
    kind === 'post' && isPublic ? [title.toLowerCase()] : [],
  )
  const [words = []] = WORD_LENGTHS.map((word) =>
    titles.flatMap((title) => [...new Set(title.match(word) ?? [])]),
  ).filter((one) => one.length > 0)
  const times = new Map<string, number>()
  for (const word of words) times.set(word, (times.get(word) ?? 0) + 1)
  return [...times]
    .sort(([, a], [, b]) => b - a)
    .slice(0, WORDS)
    .map(([word]) => word)
}
