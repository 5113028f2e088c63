/** Finds structured data (JSON-LD) that does not parse, or does not describe the post of its page. */
import { crawl, type CrawledPage } from '../crawl.ts'
import { placeInTemplates } from '../page-place.ts'
import { withoutQuery } from '../page/addresses.ts'
import { isOfPost, witness, type Rule, type RuleFinding } from '../rule.ts'

interface Fault {
  kind: string
  what: string
  actual: string
  expected: string
  cause: string
}

type Node = Readonly<Record<string, unknown>>

export const structuredDataWrong: Rule = {
  id: 'structured-data-wrong',
  area: 'templates',
  meaning:
    'The structured data (JSON-LD) of a page does not parse, or does not describe the post of the page.',
  why: 'Search engines ignore it, or show the title and date of something else.',
  async run(facts) {
    const { pages } = await crawl(facts)
    const titles = new Map(
      (await facts.addresses()).known.flatMap(({ path, title, route }) =>
        title !== null && isOfPost(facts, route) ? [[path, title]] : [],
      ),
    )
    const findings: RuleFinding[] = []
    let tested = 0
    for (const page of pages) {
      if (page.status !== 200 || page.structured.length === 0) continue
      tested++
      const fault = faultOf(page, titles.get(withoutQuery(page.path)))
      const subject = `${page.route ?? page.path} ${fault?.kind ?? ''}`
      if (!fault) continue
      findings.push({
        subject,
        title: `${page.path} ${fault.what}`,
        detail: 'Programs that read it cannot ask a person what was meant.',
        affects: 'now',
        witness: witness(page.path, `The JSON-LD of ${page.path}`, fault.actual, fault.expected),
        cause: fault.cause,
        place:
          placeInTemplates(facts, page.route, /\|\s*structured_data\b/) ??
          placeInTemplates(facts, page.route, /application\/ld\+json/i),
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim: {
        sentence: 'The structured data of pages parses, and that of posts describes them',
        tested,
        things: ['page', 'pages'],
      },
    }
  },
}

/** @param title of the post of the page; undefined if it is not that of a post */
function faultOf({ structured }: CrawledPage, title: string | undefined): Fault | undefined {
  const nodes: Node[] = []
  for (const text of structured)
    try {
      collect(JSON.parse(text), nodes)
    } catch (error) {
      return {
        kind: 'json',
        what: 'has structured data that is not JSON',
        actual: error instanceof Error ? error.message : '',
        expected: 'JSON',
        cause: 'The template writes JSON by hand. Use the filter “json” for each value.',
      }
    }
  if (title === undefined) return undefined
  const names = nodes
    .flatMap((one) => [one['headline'], one['name']])
    .filter((one) => typeof one === 'string')
  if (names.some((one) => sameWords(one, title))) return undefined
  const [first = 'no name'] = names
  return {
    kind: 'subject',
    what: 'has structured data that does not describe its post',
    actual: first,
    expected: title,
    cause: 'The template describes another value than the post.',
  }
}

/** Search engines cut long headlines, and so may a template. */
const sameWords = (one: string, other: string): boolean => {
  const [short, long] = [one, other].map((text) => text.replace(/[\s…]+/g, ' ').trim())
  return short !== undefined && short !== '' && long?.startsWith(short) === true
}

/** Adds the objects in a value, those in it first. */
function collect(value: unknown, nodes: Node[], depth = 0): void {
  if (typeof value !== 'object' || value === null || depth > 20) return
  for (const one of Object.values(value)) collect(one, nodes, depth + 1)
  if (!Array.isArray(value)) nodes.push(value as Node)
}
