/** Follows the links of the blog from its home page, as readers do. */
import type { Facts } from './facts.ts'
import { isSearch } from '../queries/meaning.ts'
import { frequentWords, pagedPosts, searchParameters } from './further-pages.ts'
import { ownPath, withoutQuery } from './page/addresses.ts'
import { readPage } from './page/read-page.ts'
import type { ReadPage } from './page/shape.ts'

/** Pages that are requested at most. A larger blog is not crawled as a whole, so nothing is said about what is not linked. */
const MOST = 1_500

export interface CrawledPage extends ReadPage {
  path: string
  status: number
  policy: string | null
  route: string | null
}

export interface Crawl {
  pages: readonly CrawledPage[]
  /** The addresses that a page links to, with one that does. */
  linkedFrom: ReadonlyMap<string, string>
  /** Whether everything that is linked was requested. */
  isComplete: boolean
}

/** Each comment has a link to itself, and one to reply to it. They show the page of the post. */
export const isOfComment = (target: string) => /[?&](comment|reply)=/.test(target)

const known = new WeakMap<Facts, Promise<Crawl>>()

/** Crawls the blog once per run. */
export function crawl(facts: Facts): Promise<Crawl> {
  let found = known.get(facts)
  if (!found) known.set(facts, (found = follow(facts)))
  return found
}

/** Returns an address with results of each search. */
async function searches(facts: Facts): Promise<string[]> {
  const found: string[] = []
  for (const compiled of facts.definition.routes) {
    const [search] = searchParameters(compiled.route.query)
    const paged = search === undefined ? undefined : pagedPosts(facts, compiled)
    if (search === undefined || !paged || !isSearch(paged.meaning) || compiled.pattern.names.length > 0)
      continue
    const [word] = await frequentWords(facts)
    if (word !== undefined) found.push(`${compiled.route.path}?${search}=${encodeURIComponent(word)}`)
  }
  return found
}

async function follow(facts: Facts): Promise<Crawl> {
  const pages: CrawledPage[] = []
  const linkedFrom = new Map<string, string>([['/', '/']])
  const visited = new Set<string>()
  const visitAll = async () => {
    // A map can be added to while it is read.
    for (const path of linkedFrom.keys()) {
      if (visited.has(path)) continue
      if (visited.size >= MOST) return false
      visited.add(path)
      const { status, route, body, location, policy } = await facts.request(path)
      const read = readPage(body)
      pages.push({ path, status, route, policy, ...read })
      const targets = [...read.links.map((one) => one.href), ...(location === null ? [] : [location])]
      for (const href of targets) {
        const own = ownPath(href, path)
        // The page of its post is the same for each comment.
        const target = own !== undefined && isOfComment(own) ? withoutQuery(own) : own
        if (target !== undefined && !linkedFrom.has(target)) linkedFrom.set(target, path)
      }
    }
    return true
  }
  let isComplete = await visitAll()
  // The results of a search are linked only by a form.
  for (const one of await searches(facts)) if (!linkedFrom.has(one)) linkedFrom.set(one, '/')
  isComplete = (await visitAll()) && isComplete
  return { pages, linkedFrom, isComplete }
}
