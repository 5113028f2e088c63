/** Finds templates that nothing renders. */
import { templatePath } from '../../shapes/documents.ts'
import { witness, type Rule } from '../rule.ts'

export const templateUnused: Rule = {
  id: 'template-unused',
  area: 'templates',
  meaning: 'No page renders a template.',
  why: 'Developers read and change it along with the others, without any effect.',
  run({ definition }) {
    const { templates, routes, settings } = definition
    const pages = [
      ...routes.map(({ route }) => route.template),
      settings['not-found']?.template,
      settings.error,
    ].filter((one) => one !== undefined)
    const used = new Set(pages.flatMap((one) => templates.closure(one)))
    const all = [...templates.mentions()].map(([name]) => name)
    const unused = all.filter((one) => !used.has(one))
    return Promise.resolve({
      findings: unused.map((name) => ({
        subject: name,
        title: `Nothing uses template “${name}”`,
        detail: name.startsWith('pages/')
          ? 'No route has it as its template.'
          : 'No page renders it, directly or through other templates.',
        affects: 'possibly' as const,
        witness: witness(null, `No page leads to “${name}”`, 'no page', 'a page'),
        cause: 'What used it was deleted or uses another template, or nothing uses it yet.',
        place: { document: templatePath(name), line: null },
        others: [],
        fixes: [
          {
            label: 'Delete',
            steps: [{ do: 'delete-document' as const, document: templatePath(name) }],
            after: `Template “${name}” is deleted.`,
          },
        ],
      })),
      claim: { sentence: 'Every template is used', tested: all.length, things: ['template', 'templates'] },
    })
  },
}
