/** Finds data of routes that no template reads. */
import { parameterNames } from '../../queries/arguments.ts'
import { lineOf, placeOfRoute, witness, type Rule, type RuleFinding } from '../rule.ts'

export const dataUnread: Rule = {
  id: 'data-unread',
  area: 'queries',
  meaning: 'No template reads data that a route declares.',
  why: 'The data has no effect. The page may lack something that it should show.',
  run(facts) {
    const { routes, templates, queries } = facts.definition
    let tested = 0
    const findings = routes.flatMap<RuleFinding>(({ route }) => {
      const { name: routeName, template, data = {}, json } = route
      // JSON responses contain all data.
      if (template === undefined || json === true) return []
      const read = templates.names(template).all
      const given = Object.values(data).flatMap((entry) =>
        typeof entry === 'string' ? [] : Object.values(entry.with ?? {}).flatMap(parameterNames),
      )
      return Object.entries(data).flatMap(([name, entry]) => {
        const query = typeof entry === 'string' ? entry : entry.query
        // It may decide that the page does not exist.
        const decides = queries.get(query)?.empty !== 'allow'
        if (decides) return []
        tested++
        if (read.has(name) || given.includes(name)) return []
        return [
          {
            subject: `${routeName} ${name}`,
            title: `No template reads “${name}” of route “${routeName}”`,
            detail: `Neither ${template} nor a template that it renders reads “${name}” (query “${query}”).`,
            affects: 'possibly' as const,
            witness: witness(null, `Data “${name}” of route “${routeName}”`, 'not read', 'read'),
            cause: 'The template reads another name, or no longer shows the data.',
            place: placeOfRoute(facts, routeName),
            others: [],
            fixes: [],
          },
        ]
      })
    })
    const { settings } = facts.definition
    const notFound = settings['not-found']
    const readBy = new Set(
      [...routes.map((one) => one.route.template), notFound?.template].flatMap((one) =>
        one === undefined ? [] : [...templates.names(one).all],
      ),
    )
    for (const name of Object.keys(settings.data ?? {})) {
      tested++
      if (!readBy.has(name)) findings.push(unreadByAll(name, facts.documents.get('blog.yaml')))
    }
    return Promise.resolve({
      findings,
      claim: {
        sentence:
          'Templates read all data of routes without JSON, except data that decides whether a page exists',
        tested,
        things: ['data entry', 'data entries'],
      },
    })
  },
}

const unreadByAll = (name: string, text: string | undefined): RuleFinding => ({
  subject: `blog.yaml ${name}`,
  title: `No template reads “${name}”, which blog.yaml declares for all routes`,
  detail: 'It is never fetched.',
  affects: 'possibly',
  witness: witness(null, `Data “${name}” of blog.yaml`, 'not read', 'read'),
  cause: 'The templates read another name, or no longer show the data.',
  place: { document: 'blog.yaml', line: lineOf(text, `${name}:`) },
  others: [],
  fixes: [],
})
