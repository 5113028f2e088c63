/** Finds fields of comment forms whose maximum length is not that of the comment rules, or that are required although the rules say otherwise. */
import { formsClaim, formTemplate } from '../comments.ts'
import { lineOf, saveFix, witness, type Rule } from '../rule.ts'

/** The value in templates for the limit of each field. */
const LIMITS = { name: 'form.rules.nameLength', text: 'form.rules.textLength' } as const

export const commentLengthDiffers: Rule = {
  id: 'comment-length-differs',
  area: 'comments',
  meaning:
    'A field of a comment form allows fewer or more characters than the comment rules, or is required although they say that it is optional.',
  why: 'Browsers stop readers too early, ask for what is not needed, or let them write a text that is then rejected.',
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
    const required = probes.flatMap(({ action, formPage, then, form, optional }) =>
      (form?.fields ?? [])
        .filter((one) => one.isRequired && optional.includes(one.name))
        .map(({ name }) => {
          const template = formTemplate(facts, then)
          const tag = template && new RegExp(`\\bname="${name}"`).exec(template.text)
          return {
            subject: `${action} ${name} required`,
            title: `The field “${name}” of the comment form is required`,
            detail: 'blog.yaml says that it is optional.',
            affects: 'now' as const,
            witness: witness(formPage, `The field “${name}” of the form`, 'required', 'not required'),
            cause: `Print “required” only if the rules say so: {% if form.fields.${name} == 'required' %} required{% endif %}.`,
            place: template
              ? { document: template.document, line: tag ? lineOf(template.text, tag[0]) : template.line }
              : null,
            others: [],
            fixes: [],
          }
        }),
    )
    return {
      findings: [...findings, ...required],
      claim: formsClaim(
        'Fields allow as many characters as the comment rules, and may be left empty where the rules say so',
        probes,
      ),
    }
  },
}
