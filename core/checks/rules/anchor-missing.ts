/** Finds links to a part of a page that the page does not have. */
import { crawl, isOfComment, type CrawledPage } from '../crawl.ts'
import type { Facts } from '../facts.ts'
import type { Finding } from '../finding.ts'
import { groupBy } from '../group-by.ts'
import { literally, placeIn, placeInTemplates } from '../page-place.ts'
import { ownPath } from '../page/addresses.ts'
import { readPage } from '../page/read-page.ts'
import { NOWHERE } from '../sample-pages.ts'
import { counted, witness, type Rule } from '../rule.ts'

/** Links to comments that are followed: each shows the page of its post, which may be another page of its comments. */
const COMMENTS = 20

interface Missing {
  page: CrawledPage
  /** The address of the page that should have it. */
  target: string
  fragment: string
  href: string
}

export const anchorMissing: Rule = {
  id: 'anchor-missing',
  area: 'templates',
  meaning: 'A link leads to a part of a page, such as #comments, that the page does not have.',
  why: 'Readers stay where they are, or end at the top of the page. A skip link then skips nothing.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const byPath = new Map(pages.filter((one) => one.status === 200).map((one) => [one.path, one]))
    // The page for unknown addresses has the same layout.
    const lost = readPage((await facts.page(NOWHERE)).body)
    byPath.set(NOWHERE, { path: NOWHERE, status: 404, policy: null, route: null, ...lost })
    const ofComments = new Map<string, { path: string; ids: ReadonlySet<string> } | undefined>()
    const commentPage = async (target: string) => {
      if (!ofComments.has(target) && ofComments.size < COMMENTS) {
        const first = await facts.request(target)
        // A redirect leads to the page with the comment, and browsers keep the fragment.
        const path = first.location === null ? target : ownPath(first.location, target)
        const { status, body } = path === undefined ? first : await facts.request(path)
        const isThere = path !== undefined && status === 200
        ofComments.set(target, isThere ? { path, ids: readPage(body).ids } : undefined)
      }
      return ofComments.get(target)
    }
    const missing: Missing[] = []
    let [tested, of] = [0, 0]
    for (const page of byPath.values())
      for (const { href } of page.links) {
        const fragment = fragmentOf(href)
        if (fragment === undefined) continue
        const target = href.trim().startsWith('#') ? page.path : ownPath(href, page.path)
        const there =
          target !== undefined && isOfComment(target) ? await commentPage(target) : byPath.get(target ?? '')
        if (target === undefined || (!there && !isOfComment(target))) continue
        of++
        if (!there) continue
        tested++
        if (!there.ids.has(fragment)) missing.push({ page, target: there.path, fragment, href })
      }
    const sources = groupBy(missing, ({ page, fragment }) => {
      const place = placeOn(facts, page, fragment)
      return place ? `${place.document}:${place.line ?? ''} #${fragment}` : `${page.path} #${fragment}`
    })
    return {
      findings: [...sources].flatMap(([subject, [first, ...others]]) => {
        if (!first) return []
        const { page, target, fragment, href } = first
        const addresses = [...new Set(others.map((one) => one.page.path))].filter((one) => one !== page.path)
        return [
          {
            subject,
            title: `${page.path} links to #${fragment}, which ${target === page.path ? 'it' : target} does not have`,
            detail: `The link is ${href}.${addresses.length === 0 ? '' : ` ${counted(addresses.length, 'more page')} have the same link.`}`,
            affects: 'now' as const,
            witness: witness(
              page.path,
              `${target} has no element with the id “${fragment}”`,
              href,
              `id="${fragment}"`,
            ),
            cause: 'The id was renamed or misspelt, or the part is not on this page.',
            place: placeOn(facts, page, fragment),
            others: addresses,
            fixes: [],
          },
        ]
      }),
      claim: isComplete
        ? {
            sentence: 'Every link to a part of a page leads to an element of it',
            ofSample: 'Every link to a part of a page that was followed leads to an element of it',
            ...{ tested, of },
            chosen: `all but those to comments, of which the first ${COMMENTS} are followed`,
            things: ['link', 'links'],
          }
        : null,
    }
  },
}

function placeOn(facts: Facts, { path, route }: CrawledPage, fragment: string): Finding['place'] {
  const template = facts.definition.settings['not-found']?.template
  const wanted = literally(`#${fragment}`)
  return path === NOWHERE && template !== undefined
    ? placeIn(facts, facts.definition.templates.closure(template), wanted)
    : placeInTemplates(facts, route, wanted)
}

/** Returns the fragment of an address; undefined without one, and for those that every page has. */
function fragmentOf(href: string): string | undefined {
  const [, text = ''] = /#(.*)$/s.exec(href) ?? []
  // `#top` is the top of every page, and `#:~:` starts a text to search for.
  if (text === '' || text === 'top' || text.startsWith(':~:')) return undefined
  try {
    return decodeURIComponent(text)
  } catch {
    return text
  }
}
