/** Chooses the pages whose markup is looked at. */
import type { Facts, KnownAddress } from './facts.ts'
import { groupBy } from './group-by.ts'
import { sampleOf, type SampleSize } from './sample.ts'

/** The addresses of each route whose pages are validated. A page takes about 0.1 s. */
const VALIDATED: SampleSize = { oldest: 1, newest: 1, between: 1 }
/** The maximum length of a page that is validated, in characters. */
const LONGEST = 500_000
/** An address that no route answers. */
const NOWHERE = '/no-such-address-as-this'

/** How pages are chosen, as a phrase. */
export const CHOSEN_PAGES = `of each route the newest, the oldest, and one between, and the page for an unknown address; pages of up to ${LONGEST / 1_000} kB`

/** Returns how many pages there are to choose from. */
export const pagesInAll = ({ definition }: Facts, total: number): number =>
  total + (definition.settings['not-found'] ? 1 : 0)

export interface SamplePage {
  address: string
  body: string
  /** The template of the page, and those that it renders. */
  templates: readonly string[]
}

/** Requests pages of each route and the 404 page. */
export async function samplePages(facts: Facts, known: readonly KnownAddress[]): Promise<SamplePage[]> {
  const { definition } = facts
  const pages: SamplePage[] = []
  const add = (address: string, template: string | undefined, body: string) => {
    if (template !== undefined && body.length <= LONGEST)
      pages.push({ address, body, templates: definition.templates.closure(template) })
  }
  for (const [name, own] of groupBy(known, (one) => one.route)) {
    const route = definition.routes.find((one) => one.route.name === name)?.route
    for (const { path } of sampleOf(own, VALIDATED)) {
      const { status, body, route: answering } = await facts.request(path)
      if (status === 200 && answering === name) add(path, route?.template, body)
    }
  }
  const rule = definition.settings['not-found']
  if (rule) add(NOWHERE, rule.template, (await facts.page(NOWHERE)).body)
  return pages
}
