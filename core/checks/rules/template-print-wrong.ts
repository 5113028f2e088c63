/** Finds outputs of templates that print nothing, a technical value, or a text that has lost its markup. */
import type { FaultKind, TemplateFault } from '../../templates/types/faults.ts'
import { templateRule } from '../template-rule.ts'

/** Returns what to print instead, as far as the hint tells; undefined if it does not. */
function outputIn({ hint }: TemplateFault): string | undefined {
  const [, output, field] = /(\{[{%].*[%}]\})|such as ([\w.]+)\.$/.exec(hint) ?? []
  return output ?? (field === undefined ? undefined : `{{ ${field} }}`)
}

/** Faults that are not in one output. */
const NO_OUTPUT = new Set<FaultKind>([
  'always-empty',
  'plural-swapped',
  'compare-never',
  'time-constant',
  'list-always-true',
  'nothing-always',
  'branch-idle',
  'rows-skipped',
])

export const templatePrintWrong = templateRule({
  id: 'template-print-wrong',
  meaning:
    'A template prints a row in place of a field, a slug in place of a name, a value in the branch for its absence, what depends on a comparison that never holds or a list that always counts as true, “nothing” whatever there is, the name of a route in place of its address, nothing at all in a condition or loop, all rows of a list but the first ones, the plural for one, the same or another time for each row of a list, words as minutes, or a text that has lost its markup or is escaped twice.',
  why: 'Readers see nothing there, or something that is meant for machines.',
  kinds: [
    'row-printed',
    'slug-shown',
    'markup-lost',
    'now-in-loop',
    'cut-to-nothing',
    'escaped-twice',
    'always-empty',
    'plural-swapped',
    'compare-never',
    'time-constant',
    'time-differs',
    'words-as-minutes',
    'list-always-true',
    'nothing-always',
    'printed-twice',
    'filter-misreads',
    'branch-idle',
    'rows-skipped',
    'literal-printed',
  ],
  claim: 'No output of a template is known to print nothing or the wrong kind of value',
  title: ({ template, message }) =>
    `In ${template}, ${message.charAt(0).toLowerCase()}${message.slice(1).replace(/\.$/, '')}`,
  actual: ({ subject, kind }) => (NO_OUTPUT.has(kind) ? subject : `{{ ${subject} }}`),
  expected: (fault) => outputIn(fault) ?? fault.hint,
  cause: ({ message, hint }) => `${message} ${hint}`,
  fix: {
    replace(text, fault) {
      const [written, output] = [`{{ ${fault.subject} }}`, outputIn(fault)]
      // A loop has a body, which is not known.
      if (!text.startsWith(written) || output?.startsWith('{{') !== true) return undefined
      return output + text.slice(written.length)
    },
    label: (fault) => `Print ${outputIn(fault) ?? ''}`,
    after: ({ template }) => `${template} prints the field.`,
  },
})
