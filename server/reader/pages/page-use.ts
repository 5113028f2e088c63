/** What the pages of a route use of a request, so that a copy of one answers others. */
import { pageRule, type RuleInForce } from '../../../core/caching/rules.ts'
import { SITEMAP_PART } from '../../../core/syndication/sitemap.ts'
import type { Route } from '../../../core/shapes/schemas.ts'
import type { Site } from '../../publish/site.ts'
import { FORM } from '../page-data.ts'

/** The parameter of the query string that opens the form as a reply. */
export const REPLY = 'reply'

/** What the pages of a route use of a request. */
export interface PageUse {
  /** The parameters of the query string that can change a page, in the order in which they are printed. */
  parameters: readonly string[]
  /** Those of them that can have any text, such as the words of a search. */
  freeTexts: readonly string[]
  hasForm: boolean
  /** False if a template reads the time, other than to print a date: then no copy is right a moment later. */
  isTimeless: boolean
  rule: RuleInForce
  /** Whether the token of the form is printed as it is, so that it can be filled in; unknown until a page is rendered. */
  isFillable: boolean
  /** The same for what is remembered of a reader. */
  isFillableForRemembered: boolean
}

const uses = new WeakMap<Site, Map<string, PageUse>>()

export function useOf(site: Site, { name, template, query, data, sitemap }: Route): PageUse {
  let ofSite = uses.get(site)
  if (!ofSite) uses.set(site, (ofSite = new Map()))
  let use = ofSite.get(name)
  if (!use) {
    const { queries, templates, cache } = site.definition
    const hasForm = template !== undefined && templates.names(template).all.has(FORM)
    const pages = Object.values(data ?? {}).flatMap((entry) => {
      const take = queries.get(typeof entry === 'string' ? entry : entry.query)?.take
      return take?.kind === 'pages' ? [take.parameter] : []
    })
    const own = [...(hasForm ? [REPLY] : []), ...(sitemap === true ? [SITEMAP_PART] : [])]
    const parameters = [...new Set([...Object.keys(query ?? {}), ...pages, ...own])]
    // A rule says that they are worth keeping nevertheless.
    const isRuled = Object.hasOwn(cache.pages ?? {}, name)
    const freeTexts = isRuled ? [] : parameters.filter((one) => query?.[one] === 'text')
    const isTimeless = template !== undefined && !templates.readsClock(template)
    ofSite.set(
      name,
      (use = {
        parameters,
        freeTexts,
        hasForm,
        isTimeless,
        isFillable: true,
        isFillableForRemembered: true,
        rule: pageRule(cache, name),
      }),
    )
  }
  return use
}

/** Returns the parameters that a page uses. Others neither change it nor appear in it. */
export function usedSearch({ parameters }: PageUse, search: URLSearchParams): URLSearchParams {
  const used = new URLSearchParams()
  if (search.size > 0)
    for (const name of parameters) {
      const value = search.get(name)
      if (value !== null) used.set(name, value)
    }
  return used
}
