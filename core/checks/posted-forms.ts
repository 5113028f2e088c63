/** Finds faults in the forms of templates that are sent with POST. */
import { templatePath } from '../shapes/documents.ts'
import type { Facts } from './facts.ts'
import { lineAt, placeText, witness, type RuleFinding } from './rule.ts'

/** Yields the forms of a template that are sent with POST, up to their end tag or the next form, and where they begin. */
function* postedForms(text: string): Generator<{ form: string; index: number }> {
  let index = 0
  // In one pass, however many start tags there are.
  for (const part of text.split(/(?=<form\b)/i)) {
    const [form = ''] = part.split(/<\/form>/i, 1)
    const tag = form.slice(0, form.indexOf('>') + 1)
    if (/^<form\b/i.test(tag) && /\bmethod="post"/i.test(tag)) yield { form, index }
    index += part.length
  }
}

/** Finds forms in templates that are sent to an action without the token that it wants. Few readers see some of them. */
function formsWithoutToken({ definition, documents }: Facts): RuleFinding[] {
  const actions = new Set(
    definition.routes.flatMap(({ route }) => (route.action === undefined ? [] : [route.name])),
  )
  return [...definition.templates.mentions()].flatMap(([name]) => {
    const document = templatePath(name)
    const text = documents.get(document) ?? ''
    return [...postedForms(text)].flatMap(({ form, index }): RuleFinding[] => {
      const [, route = ''] = /action="\{\{-?\s*['"]([\w-]+)['"]\s*\|\s*url\b/.exec(form) ?? []
      // A partial may print it.
      if (!actions.has(route) || /\bname="token"|\{%-?\s*render\b/.test(form)) return []
      const line = lineAt(text, index)
      return [
        {
          subject: `${document}:${line} token`,
          title: `${placeText(document, line)}: a form is sent to “${route}” without its token`,
          detail: 'The action refuses what is sent without it, because another site could have sent it.',
          affects: 'now',
          witness: witness(null, `The form in ${placeText(document, line)}`, 'no token', 'name="token"'),
          cause: 'Add <input type="hidden" name="token" value="{{ form.token }}"> to the form.',
          place: { document, line },
          others: [],
          fixes: [],
        },
      ]
    })
  })
}

const BUTTON = /<button\b([^<>]*)>([^<>{}]+)<\/button>/gi
const SENT = /\bname="([^"{}]+)"[^<>]*\bvalue="([^"{}]+)"/

/** Finds buttons of one form that say different things and send the same. */
function sameButtons({ definition, documents }: Facts): RuleFinding[] {
  return [...definition.templates.mentions()].flatMap(([name]) => {
    const document = templatePath(name)
    const text = documents.get(document) ?? ''
    return [...postedForms(text)].flatMap(({ form, index }): RuleFinding[] => {
      const sent = new Map<string, { label: string; end: number }>()
      return [...form.matchAll(BUTTON)].flatMap(
        ({ 0: tag, 1: attributes = '', 2: label = '', index: at }) => {
          const [, field, value] = SENT.exec(attributes) ?? []
          if (field === undefined || value === undefined) return []
          const key = `${field}=${value}`
          const before = sent.get(key)
          sent.set(key, { label: label.trim(), end: at + tag.length })
          // One of the two may be in the other branch of a condition.
          const isOther = before && /\{%-?\s*(else|elsif|when)\b/.test(form.slice(before.end, at))
          if (!before || isOther || before.label === label.trim()) return []
          const line = lineAt(text, index + at)
          return [
            {
              subject: `${document}:${line} button`,
              title: `${placeText(document, line)}: the buttons “${before.label}” and “${label.trim()}” send the same`,
              detail: 'One of them does what the other one says.',
              affects: 'now',
              witness: witness(null, `Both buttons send ${key}`, key, 'another value'),
              cause: `Give “${label.trim()}” a value of its own.`,
              place: { document, line },
              others: [],
              fixes: [],
            },
          ]
        },
      )
    })
  })
}

/** What a button of a comment form can ask for. */
const ACTIONS = ['add', 'preview', 'edit', 'save', 'delete']

/** Finds buttons of comment forms that ask for something that no form can do. */
function unknownActions({ definition, documents }: Facts): RuleFinding[] {
  return [...definition.templates.mentions()].flatMap(([name]) => {
    const document = templatePath(name)
    const text = documents.get(document) ?? ''
    return [...postedForms(text)].flatMap(({ form, index }): RuleFinding[] =>
      [...form.matchAll(BUTTON)].flatMap(({ 0: tag, 1: attributes = '', 2: label = '', index: at }) => {
        const value = /\bvalue="([^"]*)"/.exec(attributes)?.[1] ?? ''
        if (!/\bname="do"/.test(attributes) || value.includes('{') || ACTIONS.includes(value)) return []
        const line = lineAt(text, index + at)
        return [
          {
            subject: `${document}:${line} action`,
            title: `${placeText(document, line)}: the button “${label.trim()}” asks for ${value === '' ? 'nothing' : `“${value}”`}`,
            detail: `A comment form can ${ACTIONS.join(', ')}.`,
            affects: 'now',
            witness: witness(
              null,
              `The value of ${tag}`,
              value === '' ? 'no value' : value,
              ACTIONS.join(', '),
            ),
            cause: 'Give the button the value of what it does.',
            place: { document, line },
            others: [],
            fixes: [],
          },
        ]
      }),
    )
  })
}

/** Finds faults in forms that are sent with POST, in the source of templates: few readers see some of them. */
export const postedFormFindings = (facts: Facts): RuleFinding[] => [
  ...formsWithoutToken(facts),
  ...sameButtons(facts),
  ...unknownActions(facts),
]
