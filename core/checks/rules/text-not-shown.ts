/** Finds blogs of which no page shows the whole text of a post. */
import { templatePath } from '../../shapes/documents.ts'
import { witness, type Rule, type RuleFinding } from '../rule.ts'

/** The HTML of a post, under whatever name. That of comments is called so in every template. */
const TEXT = /(?<!\bcomment)(?:\.html\b|\[['"]html['"]\])/

export const textNotShown: Rule = {
  id: 'text-not-shown',
  area: 'templates',
  meaning: 'Pages show a post without its text.',
  why: 'Readers cannot read it anywhere.',
  async run(facts) {
    const { routes, queries, templates } = facts.definition
    const ofPosts = routes.flatMap(({ route }) => {
      const { template } = route
      const names = Object.entries(route.data ?? {}).flatMap(([name, entry]) => {
        const meaning = queries.get(typeof entry === 'string' ? entry : entry.query)
        return meaning?.from === 'posts' && meaning.take.kind === 'one' ? [name] : []
      })
      return template === undefined || names.length === 0 ? [] : [{ route, template, names }]
    })
    const findings: RuleFinding[] = []
    const isShown = ofPosts.some(({ template }) =>
      templates.closure(template).some((one) => TEXT.test(facts.documents.get(templatePath(one)) ?? '')),
    )
    const [first] = ofPosts
    if (first && !isShown) {
      const { known } = await facts.addresses()
      const address = known.find((one) => one.route === first.route.name)?.path ?? null
      const [name = 'post'] = first.names
      const document = templatePath(first.template)
      findings.push({
        subject: first.route.name,
        title: `${document} shows a post without its text`,
        detail: `No template reads ${name}.html.`,
        affects: 'now',
        witness: witness(address, 'The page of a post', 'no text', `{{ ${name}.html }}`),
        cause: `Print {{ ${name}.html }} where the text belongs.`,
        place: { document, line: null },
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim:
        ofPosts.length === 0
          ? null
          : {
              sentence: 'A page shows the text of posts',
              tested: ofPosts.length,
              things: ['route', 'routes'],
            },
    }
  },
}
