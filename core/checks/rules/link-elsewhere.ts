/** Finds links with the title of one row that lead to another one. */
import { crawl, type CrawledPage } from '../crawl.ts'
import type { Facts, KnownAddress } from '../facts.ts'
import { groupBy } from '../group-by.ts'
import { placeInTemplates } from '../page-place.ts'
import { pathOf, withoutQuery } from '../page/addresses.ts'
import { counted, routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'

interface Wrong {
  page: CrawledPage
  text: string
  target: KnownAddress
  meant: KnownAddress
}

/** Words from which on a title is not chosen by chance. */
const WHOLE_TITLE = 3

export const linkElsewhere: Rule = {
  id: 'link-elsewhere',
  area: 'templates',
  meaning: 'A link has the title or the picture of one post, page or term, and leads to another one.',
  why: 'Readers get something else than they chose. It happens if a template uses the slug of another value.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const { known } = await facts.addresses()
    const rows = known.filter(
      (one) => one.title !== null && routeOf(facts, one.route)?.route.template !== undefined,
    )
    const byPath = new Map(rows.map((one) => [one.path, one]))
    const byTitle = groupBy(rows, (one) => (one.title ?? '').trim())
    const wrong: Wrong[] = []
    let tested = 0
    for (const page of pages)
      for (const { href, text: shown } of page.links) {
        const text = shown.trim()
        const [meant, ...more] = byTitle.get(text) ?? []
        // Of two rows with the same title, either may be meant.
        if (!meant || more.length > 0) continue
        const target = byPath.get(pathOf(href, page.path) ?? '')
        if (!target) continue
        tested++
        // A word that is the title of a page may name a category as well, but nobody calls another row by the whole title of
        // this page, or of a post.
        const isWhole = meant.path === withoutQuery(page.path) || text.split(/\s+/).length >= WHOLE_TITLE
        if (target.path !== meant.path && (target.route === meant.route || isWhole))
          wrong.push({ page, text, target, meant })
      }
    const pictures = new Map(
      samePicturedLinks(pages).map((one) => {
        const finding = pictureFinding(facts, one)
        return [finding.subject, finding]
      }),
    )
    return {
      findings: [
        ...pictures.values(),
        ...[...groupBy(wrong, ({ page, target }) => `${page.route ?? ''} ${target.route}`)].flatMap(
          ([subject, [first, ...others]]) => {
            if (!first) return []
            const { page, text, target, meant } = first
            return [
              {
                subject,
                title: `On ${page.path}, the link “${text}” leads to ${target.path}`,
                detail: `“${text}” is at ${meant.path}.${others.length === 0 ? '' : ` ${counted(others.length, 'more link')} lead to the wrong page.`}`,
                affects: 'now' as const,
                witness: witness(page.path, `“${text}” leads to ${target.path}`, target.path, meant.path),
                cause: 'The template builds the address from another value than the text of the link.',
                place: placeInTemplates(facts, page.route, new RegExp(`'${target.route}'\\s*\\|\\s*url`)),
                others: [...new Set(others.map((one) => one.page.path))].filter((one) => one !== page.path),
                fixes: [],
              },
            ]
          },
        ),
      ],
      claim: isComplete
        ? {
            sentence: 'Every link with the title of a post, page or term leads to it',
            tested,
            things: ['link', 'links'],
          }
        : null,
    }
  },
}

/** So many different pictures with the same link are a fault of the template. */
const SAME = 3

interface SamePictured {
  page: CrawledPage
  target: string
  images: number
}

/** Returns pages on which all pictures that are links lead to the same page, once for each route and target. */
function samePicturedLinks(pages: readonly CrawledPage[]): SamePictured[] {
  const found = new Map<string, SamePictured>()
  for (const page of pages) {
    const pictured = page.links.filter((one) => one.image !== '')
    const targets = new Set(pictured.map((one) => pathOf(one.href, page.path)))
    const images = new Set(pictured.map((one) => one.image))
    const [target] = targets
    if (targets.size !== 1 || target === undefined || images.size < SAME) continue
    const key = `${page.route ?? ''} ${target}`
    if (!found.has(key)) found.set(key, { page, target, images: images.size })
  }
  return [...found.values()]
}

function pictureFinding(facts: Facts, { page, target, images }: SamePictured): RuleFinding {
  const place =
    placeInTemplates(facts, page.route, /<a\b[^>]*>[^\n]*\|\s*picture\b/) ??
    placeInTemplates(facts, page.route, /<img\b/)
  return {
    subject: `pictures ${place ? `${place.document}:${place.line ?? ''}` : `${page.route ?? ''} ${target}`}`,
    title: `On ${page.path}, ${counted(images, 'picture')} all lead to ${target}`,
    detail: 'Each picture is that of another row.',
    affects: 'now',
    witness: witness(
      page.path,
      `${counted(images, 'different picture')} lead to ${target}`,
      target,
      'the row of the picture',
    ),
    cause: 'The template builds the address from something that is the same for all rows.',
    place,
    others: [],
    fixes: [],
  }
}
