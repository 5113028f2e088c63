/** Finds blogs of which no page shows the whole text of a post, or of a page. */
import { templatePath } from '../../shapes/documents.ts'
import type { Facts, KnownAddress } from '../facts.ts'
import { witness, type Rule, type RuleFinding } from '../rule.ts'

/** The HTML of a post, under whatever name, unless it is cut. That of comments is called so in every template. */
const TEXT =
  /(?<!\bcomment)(?:\.html\b|\[['"]html['"]\])(?!\s*\|\s*(?:strip_html\s*\|\s*)?(?:excerpt|truncate|truncatewords|slice)\b)/

export const textNotShown: Rule = {
  id: 'text-not-shown',
  area: 'templates',
  meaning: 'Posts or pages are shown without their text, or with a part of it only.',
  why: 'Readers cannot read it anywhere.',
  async run(facts) {
    const findings: RuleFinding[] = []
    let tested = 0
    for (const [from, one] of [
      ['posts', 'post'],
      ['pages', 'page'],
    ] as const) {
      const own = routesOf(facts, from)
      tested += own.length
      const [first] = own
      if (first && !own.some(({ template }) => isTextShown(facts, template)))
        findings.push(findingOf(one, first, (await facts.addresses()).known))
    }
    return {
      findings,
      claim:
        tested === 0
          ? null
          : { sentence: 'A page shows the text of posts and pages', tested, things: ['route', 'routes'] },
    }
  },
}

interface RowRoute {
  route: string
  template: string
  /** The name of the row in the data. */
  name: string
}

/** Returns the routes with a page for one row of a source. */
const routesOf = ({ definition }: Facts, from: 'posts' | 'pages'): RowRoute[] =>
  definition.routes.flatMap(({ route }) => {
    const { template } = route
    const [name] = Object.entries(route.data ?? {}).flatMap(([data, entry]) => {
      const meaning = definition.queries.get(typeof entry === 'string' ? entry : entry.query)
      return meaning?.from === from && meaning.take.kind === 'one' ? [data] : []
    })
    return template === undefined || name === undefined ? [] : [{ route: route.name, template, name }]
  })

const isTextShown = ({ definition, documents }: Facts, template: string): boolean =>
  definition.templates.closure(template).some((one) => TEXT.test(documents.get(templatePath(one)) ?? ''))

function findingOf(
  one: string,
  { route, template, name }: RowRoute,
  known: readonly KnownAddress[],
): RuleFinding {
  const address = known.find((other) => other.route === route)?.path ?? null
  const document = templatePath(template)
  return {
    subject: route,
    title: `${document} shows a ${one} without its text`,
    detail: `No template reads ${name}.html, or only a part of it is printed.`,
    affects: 'now',
    witness: witness(address, `The page of a ${one}`, 'no text', `{{ ${name}.html }}`),
    cause: `Print {{ ${name}.html }} where the text belongs.`,
    place: { document, line: null },
    others: [],
    fixes: [],
  }
}
