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
        title: `No page uses template “${name}”`,
        detail: name.startsWith('pages/')
          ? 'It is not the template of a route.'
          : 'No page renders it, directly or through other templates.',
        affects: 'possibly' as const,
        witness: witness(null, `Pages that render “${name}”`, 'none', 'one or more'),
        cause: 'The page that used it was deleted or uses another template, or no page uses it yet.',
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
