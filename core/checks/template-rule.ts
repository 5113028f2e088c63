/** Makes rules of what the types of values show to be wrong in templates. */
import { templateFaults } from '../blog/data-types.ts'
import { templatePath } from '../shapes/documents.ts'
import type { FaultKind, TemplateFault } from '../templates/types/faults.ts'
import type { Facts, KnownAddress } from './facts.ts'
import { groupBy } from './group-by.ts'
import { placeText, saveFix, witness, type Rule, type RuleFinding } from './rule.ts'

interface TemplateRule extends Pick<Rule, 'id' | 'meaning' | 'why'> {
  kinds: readonly FaultKind[]
  /** What is true if nothing is found, as a sentence. */
  claim: string
  title: (fault: TemplateFault) => string
  /** What a page should have instead. */
  expected: (fault: TemplateFault) => string
  /** What a page has. */
  actual: (fault: TemplateFault) => string
  cause: (fault: TemplateFault) => string
  /** Returns the line with the fault mended; undefined if it is not certain how. */
  mend: (line: string, fault: TemplateFault) => string | undefined
}

/** Returns a rule for some kinds of faults. */
export const templateRule = ({ id, meaning, why, kinds, claim, ...words }: TemplateRule): Rule => ({
  id,
  area: 'templates',
  meaning,
  why,
  async run(facts) {
    const found = templateFaults(facts.definition).filter((one) => kinds.includes(one.kind))
    const { known } = found.length > 0 ? await facts.addresses() : { known: [] }
    const findings = [
      ...groupBy(found, (one) => `${one.template} ${one.subject} ${one.kind}`).values(),
    ].flatMap(([first, ...others]) => (first ? [findingOf(facts, first, others, known, words)] : []))
    const tested = [...facts.definition.templates.mentions()].length
    return { findings, claim: { sentence: claim, tested, things: ['template', 'templates'] } }
  },
})

type Words = Pick<TemplateRule, 'title' | 'expected' | 'actual' | 'cause' | 'mend'>

function findingOf(
  facts: Facts,
  fault: TemplateFault,
  others: readonly TemplateFault[],
  known: readonly KnownAddress[],
  { title, expected, actual, cause, mend }: Words,
): RuleFinding {
  const document = templatePath(fault.template)
  const address = known.find((one) => one.route === fault.route)?.path ?? null
  const lines = (facts.documents.get(document) ?? '').split('\n')
  const at = [fault, ...others].map((one) => one.place.line - 1)
  const mended = lines.map((line, index) => (at.includes(index) ? mend(line, fault) : line))
  const isMended = at.every((index) => mended[index] !== undefined && mended[index] !== lines[index])
  return {
    subject: `${fault.template} ${fault.subject}`,
    title: title(fault),
    detail: `${fault.message}${fault.hint === '' ? '' : ` ${fault.hint}`}`,
    affects: address === null ? 'possibly' : 'now',
    witness: witness(
      address,
      `${placeText(document, fault.place.line)} as part of ${templatePath(fault.page)}`,
      actual(fault),
      expected(fault),
    ),
    cause: cause(fault),
    place: { document, line: fault.place.line },
    others: others.map((one) => placeText(document, one.place.line)),
    fixes: isMended
      ? saveFix(
          document,
          mended.join('\n'),
          `Change ${placeText(document, fault.place.line)}`,
          'The value is there.',
        )
      : [],
  }
}

/** Returns a line in which the last part of the subject has the name that was probably meant. */
export function withMeant(line: string, { subject, meant }: TemplateFault): string | undefined {
  if (meant === null || !line.includes(subject)) return undefined
  return line.replaceAll(
    subject,
    subject.replace(/[^.]*$/, () => meant),
  )
}
