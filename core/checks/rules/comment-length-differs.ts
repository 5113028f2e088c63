/** Finds fields of comment forms whose maximum length is not that of the comment rules. */
import { formsClaim, formTemplate } from '../comments.ts'
import { lineOf, saveFix, witness, type Rule } from '../rule.ts'

/** The value in templates for the limit of each field. */
const LIMITS = { name: 'form.rules.nameLength', text: 'form.rules.textLength' } as const

export const commentLengthDiffers: Rule = {
  id: 'comment-length-differs',
  area: 'comments',
  meaning: 'A field of a comment form allows fewer or more characters than the comment rules.',
  why: 'Browsers stop readers too early, or let them write a text that is then rejected.',
  async run(facts) {
    const probes = (await facts.comments()).filter((one) => one.form !== null)
    const findings = probes.flatMap(({ action, formPage, then, form, limits }) =>
      (['name', 'text'] as const).flatMap((name) => {
        const given = form?.fields.find((one) => one.name === name)?.maxLength ?? null
        if (given === null || given === limits[name]) return []
        const template = formTemplate(facts, then)
        const attribute = `maxlength="${given}"`
        const isUnique = template !== undefined && template.text.split(attribute).length === 2
        return [
          {
            subject: `${action} ${name}`,
            title: `The field “${name}” of the comment form ends at ${given.toLocaleString('en-GB')} characters`,
            detail: `blog.yaml allows ${limits[name].toLocaleString('en-GB')}.`,
            affects: 'now' as const,
            witness: witness(
              formPage,
              `The field “${name}” of the form`,
              attribute,
              `maxlength="${limits[name]}"`,
            ),
            cause: `Print the limit of the rules: maxlength="{{ ${LIMITS[name]} }}".`,
            place: template
              ? {
                  document: template.document,
                  line: isUnique ? lineOf(template.text, attribute) : template.line,
                }
              : null,
            others: [],
            fixes:
              template && isUnique
                ? saveFix(
                    template.document,
                    template.text.replace(attribute, `maxlength="{{ ${LIMITS[name]} }}"`),
                    'Print the limit of the rules',
                    'The field ends where the comment rules end.',
                  )
                : [],
          },
        ]
      }),
    )
    return { findings, claim: formsClaim('Fields allow as many characters as the comment rules', probes) }
  },
}
