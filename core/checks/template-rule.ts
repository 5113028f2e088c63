/** Makes rules from the faults that the types of values show in templates. */
import { analysedTemplates } from '../blog/data-types.ts'
import { templatePath } from '../shapes/documents.ts'
import type { FaultKind, TemplateFault } from '../templates/types/faults.ts'
import type { Facts, KnownAddress } from './facts.ts'
import { groupBy } from './group-by.ts'
import type { Fix } from './finding.ts'
import { placeText, saveFix, witness, type Rule, type RuleFinding } from './rule.ts'

interface TemplateRule extends Pick<Rule, 'id' | 'meaning' | 'why'> {
  kinds: readonly FaultKind[]
  /** What is true if no fault is found, as a sentence. */
  claim: string
  title: (fault: TemplateFault) => string
  /** What the page shows, and what it should show. */
  actual: (fault: TemplateFault) => string
  expected: (fault: TemplateFault) => string
  cause: (fault: TemplateFault) => string
  /** How to correct the fault, if that is certain. */
  fix?: Correction
  /** What faults with the same cause have in common; the template and the subject, if it is not given. */
  causeOf?: (fault: TemplateFault) => string
  /** Whether another rule reports the same fault, with a page that shows it. */
  isReportedElsewhere?: (facts: Facts, fault: TemplateFault) => Promise<boolean>
  /** A change of another document that corrects the fault. */
  fixElsewhere?: (facts: Facts, fault: TemplateFault) => Fix[]
}

interface Correction {
  /** Returns the text that replaces the text from the fault to the end of its line; undefined without a fix. */
  replace: (text: string, fault: TemplateFault) => string | undefined
  label: (fault: TemplateFault) => string
  after: (fault: TemplateFault) => string
}

/** Returns a rule for some kinds of faults. */
export const templateRule = ({ id, meaning, why, kinds, claim, ...rule }: TemplateRule): Rule => ({
  id,
  area: 'templates',
  meaning,
  why,
  async run(facts) {
    const { faults, templates, isComplete } = analysedTemplates(facts.definition)
    const found: TemplateFault[] = []
    for (const one of faults.filter(({ kind }) => kinds.includes(kind)))
      if (!(await rule.isReportedElsewhere?.(facts, one))) found.push(one)
    const { known } = found.length > 0 ? await facts.addresses() : { known: [] }
    const findings = [
      ...groupBy(
        found,
        (one) => rule.causeOf?.(one) ?? `${one.kind} ${one.template} ${one.subject}`,
      ).values(),
    ].flatMap(([first, ...others]) => (first ? [findingOf(facts, [first, ...others], known, rule)] : []))
    const tested = { tested: templates.size, things: ['template', 'templates'] as const }
    return { findings, claim: isComplete ? { sentence: claim, ...tested } : null }
  },
})

type Words = Pick<TemplateRule, 'title' | 'expected' | 'actual' | 'cause' | 'fix' | 'fixElsewhere'>

function findingOf(
  facts: Facts,
  [fault, ...others]: readonly [TemplateFault, ...TemplateFault[]],
  known: readonly KnownAddress[],
  { title, expected, actual, cause, fix, fixElsewhere }: Words,
): RuleFinding {
  const { documents } = facts
  const document = templatePath(fault.template)
  const address = known.find((one) => one.route === fault.route)?.path ?? null
  const corrected = fix && correctedText(documents.get(document) ?? '', [fault, ...others], fix.replace)
  return {
    subject: `${fault.template} ${fault.subject}`,
    title: title(fault),
    detail: `${fault.message}${fault.hint === '' ? '' : ` ${fault.hint}`}`,
    affects: address === null ? 'possibly' : 'now',
    witness: witness(
      address,
      `${placeText(document, fault.place.line)}, rendered for ${templatePath(fault.page)}`,
      actual(fault),
      expected(fault),
    ),
    cause: cause(fault),
    place: { document, line: fault.place.line },
    others: others.map((one) => placeText(templatePath(one.template), one.place.line)),
    fixes: fix
      ? saveFix(document, corrected, fix.label(fault), fix.after(fault))
      : (fixElsewhere?.(facts, fault) ?? []),
  }
}

/** Replaces the text at each fault; undefined unless all of them can be corrected. */
function correctedText(
  text: string,
  faults: readonly TemplateFault[],
  replace: Correction['replace'],
): string | undefined {
  const lines = text.split('\n')
  // From the end of a line to its start, so that columns stay right.
  for (const fault of [...faults].sort((a, b) => b.place.column - a.place.column)) {
    const { line, column } = fault.place
    const whole = lines[line - 1] ?? ''
    const replaced = replace(whole.slice(column - 1), fault)
    if (replaced === undefined) return undefined
    lines[line - 1] = whole.slice(0, column - 1) + replaced
  }
  return lines.join('\n')
}

/** The fix of a misspelt name. */
export const correctName: Correction = {
  replace(text, { subject, meant }) {
    if (meant === null || !text.startsWith(subject) || /^[\w-]/.test(text.slice(subject.length)))
      return undefined
    return subject.replace(/[^.]*$/, () => meant) + text.slice(subject.length)
  },
  label: ({ meant, subject }) => `Replace “${subject.replace(/^.*\./, '')}” with “${meant ?? ''}”`,
  after: ({ meant, template }) => `${template} reads “${meant ?? ''}”.`,
}
