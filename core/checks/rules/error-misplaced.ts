/** Finds forms that show the error of one field at another one. */
import { templatePath } from '../../shapes/documents.ts'
import { lineAt, placeText, witness, type Rule } from '../rule.ts'

interface Misplaced {
  field: string
  beside: string
  line: number
}

export const errorMisplaced: Rule = {
  id: 'error-misplaced',
  area: 'comments',
  meaning: 'A form shows the error of one field at another one.',
  why: 'Readers correct what is right, and send the form again with the same mistake.',
  run({ definition, documents }) {
    const templates = [...definition.templates.mentions()].map(([name]) => templatePath(name))
    const findings = templates.flatMap((document) =>
      misplacedErrors(documents.get(document) ?? '').map(({ field, beside, line }) => ({
        subject: `${document} ${field} ${beside}`,
        title: `${placeText(document, line)}: the error of “${field}” is shown at the field “${beside}”`,
        detail: 'Screen readers read it out with the wrong field, too.',
        affects: 'now' as const,
        witness: witness(
          null,
          'The output beside the field',
          `form.errors.${field}`,
          `form.errors.${beside}`,
        ),
        cause: `Print form.errors.${beside} there.`,
        place: { document, line },
        others: [],
        fixes: [],
      })),
    )
    return Promise.resolve({
      findings,
      claim: {
        sentence: 'No template prints the error of one field beside another one',
        tested: templates.length,
        things: ['template', 'templates'],
      },
    })
  },
}

// Up to the next tag: a template with many tags that are not closed is read in one pass.
const FIELD = /<(?:input|textarea|select)\b[^<>]*?\bname="([a-z]+)"/g
const ERROR = /\{\{-?\s*form\.errors\.(\w+)/g
const ASKED = /\{%-?\s*if form\.errors\.(\w+)/g
/** Fields whose errors have names of their own. */
const FIELDS = new Set(['name', 'email', 'site', 'text'])

/** Returns errors of a field that are neither right before nor right after that field. */
function misplacedErrors(text: string): Misplaced[] {
  const fields = [...text.matchAll(FIELD)].flatMap(({ 1: name = '', index }) =>
    FIELDS.has(name) ? [{ name, index }] : [],
  )
  // In the tag of a field: {% if form.errors.name %} aria-invalid="true".
  const marked = fields.flatMap(({ name, index }): Misplaced[] => {
    const tag = text.slice(index, endOfTag(text, index))
    const other = [...tag.matchAll(ASKED)].find(([, field]) => field !== name && FIELDS.has(field ?? ''))
    return other ? [{ field: other[1] ?? '', beside: name, line: lineAt(text, index + other.index) }] : []
  })
  const printed = [...text.matchAll(ERROR)].flatMap(({ 1: field = '', index }): Misplaced[] => {
    if (!FIELDS.has(field) || !fields.some((one) => one.name === field)) return []
    const before = fields.findLast((one) => one.index < index)
    const after = fields.find((one) => one.index > index)
    // Errors before all fields are a list of them.
    if (!before || before.name === field || after?.name === field) return []
    // So are those after all fields, if there are several.
    if (!after && before !== fields.at(-1)) return []
    return [{ field, beside: before.name, line: lineAt(text, index) }]
  })
  return [...marked, ...printed]
}

/** Returns where the tag ends that starts at an index. Tags of templates in it may have a “>”. */
function endOfTag(text: string, index: number): number {
  const [tag = ''] = /^(?:\{%[^%]*%\}|\{\{[^}]*\}\}|[^>{]|\{)*/.exec(text.slice(index, index + 2_000)) ?? []
  return index + tag.length
}
