/** Finds data of routes that nothing reads. */
import { parameterNames } from '../../queries/arguments.ts'
import { placeOfRoute, witness, type Rule } from '../rule.ts'

export const dataUnread: Rule = {
  id: 'data-unread',
  area: 'queries',
  meaning: 'No template reads data that a route declares.',
  why: 'It has no effect, and hides that a page lacks what it should show.',
  run(facts) {
    const { routes, templates, queries } = facts.definition
    let tested = 0
    const findings = routes.flatMap(({ route }) => {
      const { name: routeName, template, data = {}, json } = route
      // JSON answers have all data.
      if (template === undefined || json === true) return []
      const read = templates.names(template).all
      const given = Object.values(data).flatMap((entry) =>
        typeof entry === 'string' ? [] : Object.values(entry.with ?? {}).flatMap(parameterNames),
      )
      return Object.entries(data).flatMap(([name, entry]) => {
        tested++
        const query = typeof entry === 'string' ? entry : entry.query
        // It may decide that there is no page.
        const decides = queries.get(query)?.empty !== 'allow'
        if (read.has(name) || given.includes(name) || decides) return []
        return [
          {
            subject: `${routeName} ${name}`,
            title: `Nothing on the pages of “${routeName}” reads “${name}”`,
            detail: `Neither ${template} nor a template that it renders reads “${name}”, which query “${query}” would fetch.`,
            affects: 'possibly' as const,
            witness: witness(null, `Data “${name}” of route “${routeName}”`, 'not read', 'read'),
            cause: 'The template reads another name, or does not show it any more.',
            place: placeOfRoute(facts, routeName),
            others: [],
            fixes: [],
          },
        ]
      })
    })
    return Promise.resolve({
      findings,
      claim: { sentence: 'All data of routes is read', tested, things: ['entry of data', 'entries of data'] },
    })
  },
}
