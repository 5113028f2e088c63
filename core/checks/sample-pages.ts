/** Chooses the pages whose markup is looked at. */
import { isSearch } from '../queries/meaning.ts'
import { crawl } from './crawl.ts'
import type { Facts, KnownAddress } from './facts.ts'
import { furtherPages, pagedPosts, searchParameters } from './further-pages.ts'
import { groupBy } from './group-by.ts'
import { ownPath } from './page/addresses.ts'
import { sampleOf, type SampleSize } from './sample.ts'

/** The addresses of each route whose pages are validated. A page takes about 0.1 s. */
const VALIDATED: SampleSize = { oldest: 1, newest: 1, between: 1 }
/** The maximum length of a page that is validated, in characters. */
const LONGEST = 500_000
/** The status of a form that is shown again with its errors. */
const REFUSED = 422
const NOT_FOUND = 404
/** Shorter addresses are like too many others when they lack a letter. */
const MISTYPED = 12
/** An address that no route answers. */
export const NOWHERE = '/no-such-address-as-this'

/** How pages are chosen, as a phrase. */
export const CHOSEN_PAGES = `of each route the newest, the oldest, and one between, second pages, a search with and without results, a reply, comment forms with their errors, and the pages for an unknown and a mistyped address; pages of up to ${LONGEST / 1_000} kB`

export interface SamplePage {
  address: string
  body: string
  /** The template of the page, and those that it renders. */
  templates: readonly string[]
  /** Whether it answers a form that was refused, so that no browser can open it by its address. */
  isOfForm: boolean
}

/** A text that no post has. */
const NO_WORD = 'qzqzqz'

/** Returns addresses at which templates show other parts: second pages, a search with and without results, and a reply. */
export async function furtherStates(facts: Facts): Promise<string[]> {
  const addresses: string[] = []
  for (const compiled of facts.definition.routes) {
    const paged = pagedPosts(facts, compiled)
    if (paged) addresses.push(...(await furtherPages(facts, compiled, paged)))
    const [search] = searchParameters(compiled.route.query)
    if (search === undefined || !paged || !isSearch(paged.meaning) || compiled.pattern.names.length > 0)
      continue
    addresses.push(`${compiled.route.path}?${search}=${NO_WORD}`)
  }
  const { pages } = await crawl(facts)
  for (const { path, links } of pages) {
    const reply = links
      .map((one) => ownPath(one.href, path))
      .find((one) => one !== undefined && /[?&]reply=\d/.test(one))
    if (reply === undefined) continue
    addresses.push(reply)
    break
  }
  return addresses
}

/** Returns addresses that no route answers: one that is like no other, and one that was mistyped. */
function notFoundAddresses(known: readonly KnownAddress[]): string[] {
  const mistyped = known.map(({ path }) => path.slice(0, -1)).find((one) => one.length >= MISTYPED)
  return mistyped === undefined || known.some(({ path }) => path === mistyped)
    ? [NOWHERE]
    : [NOWHERE, mistyped]
}

/** Requests pages of each route and the 404 page. @returns them, and how many there are to choose from */
export async function samplePages(facts: Facts): Promise<{ pages: SamplePage[]; total: number }> {
  const { definition } = facts
  const { known, total } = await facts.addresses()
  const pages: SamplePage[] = []
  const add = (address: string, template: string | undefined, body: string, isOfForm = false) => {
    if (template !== undefined && body.length <= LONGEST)
      pages.push({ address, body, templates: definition.templates.closure(template), isOfForm })
  }
  const templateOf = (route: string | null) =>
    definition.routes.find((one) => one.route.name === route)?.route.template
  for (const [name, own] of groupBy(known, (one) => one.route)) {
    for (const { path } of sampleOf(own, VALIDATED)) {
      const { status, body, route: answering } = await facts.request(path)
      if (status === 200 && answering === name) add(path, templateOf(name), body)
    }
  }
  const states = await furtherStates(facts)
  for (const address of states) {
    const { status, body, route: answering } = await facts.request(address)
    if (status === 200) add(address, templateOf(answering), body)
  }
  const forms = await facts.forms()
  for (const address of forms) {
    const { status, body, route } = await facts.refusedForm(address)
    // The page that shows the result of the action.
    const { then = route } = definition.routes.find((one) => one.route.name === route)?.route ?? {}
    if (status === REFUSED) add(address, templateOf(then), body, true)
  }
  const rule = definition.settings['not-found']
  const missing = rule ? notFoundAddresses(known) : []
  for (const address of missing) {
    const { status, body } = await facts.page(address)
    if (status === NOT_FOUND) add(address, rule?.template, body)
  }
  return { pages, total: total + states.length + forms.length + missing.length }
}
