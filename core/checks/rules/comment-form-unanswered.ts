/** Finds comment forms that do not work, by filling them in and sending them as a browser does. */
import { HONEYPOT, type CommentField } from '../../comments/rules.ts'
import type { CommentProbe, FormField, PageForm } from '../comment-facts.ts'
import { changeFormTag, formsClaim, formTemplate, withAttribute, type Template } from '../comments.ts'
import type { Facts } from '../facts.ts'
import type { Fix } from '../finding.ts'
import { placeText, routeOf, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

interface Fault {
  /** What is wrong with the form, as a sentence. */
  cause: string
  actual: string
  expected: string
  fix(template: Template): Fix[]
}

export const commentFormUnanswered: Rule = {
  id: 'comment-form-unanswered',
  area: 'comments',
  meaning: 'A comment form does not add a comment, or loses what was typed.',
  why: 'Readers write for nothing, and nobody notices.',
  async run(facts) {
    const probes = await facts.comments()
    const findings = probes.flatMap((probe) =>
      probe.form === null
        ? []
        : faultsOf(facts, probe, probe.form).map((fault) => describe(facts, probe, fault)),
    )
    return {
      findings,
      claim: formsClaim(
        'The form adds what was typed, and says what is wrong without losing it',
        probes.filter((one) => one.form !== null),
      ),
    }
  },
}

function describe(facts: Facts, { formPage: page, then }: CommentProbe, fault: Fault): RuleFinding {
  const template = formTemplate(facts, then)
  return {
    subject: `${page} ${fault.cause}`,
    title: `The comment form on ${page} does not work`,
    detail: fault.cause,
    affects: 'now',
    witness: witness(page, 'The form was filled in and sent as a browser does', fault.actual, fault.expected),
    cause: template ? `${placeText(template.document, template.line)}: ${fault.cause}` : fault.cause,
    place: template ? { document: template.document, line: template.line } : null,
    others: [],
    fixes: template ? fault.fix(template) : [],
  }
}

/** Returns the faults of a form. What prevents sending it hides the others. */
function faultsOf(facts: Facts, probe: CommentProbe, form: PageForm): Fault[] {
  const { sent, rejected, action } = probe
  if (!sent?.isStored) return [notStored(facts, probe, form)]
  const faults: Fault[] = []
  for (const field of sent.lost) {
    const known = misnamed(form, field)
    faults.push({
      cause: `No field is called “${field}”, so what is typed there is lost.`,
      actual: known === undefined ? 'no such field' : `name="${known.name}"`,
      expected: `name="${field}"`,
      fix: (template) => renameField(template, known?.name, field),
    })
  }
  for (const { mistake, status, saysWhy, keepsTyped } of rejected) {
    if (status !== 422 && status !== 403)
      faults.push({
        cause: `A form ${mistake} is answered with ${status}.`,
        actual: String(status),
        expected: '422',
        fix: () => [],
      })
    else if (!saysWhy || !keepsTyped)
      faults.push({
        cause: !saysWhy
          ? `After a form ${mistake}, the page does not say what is wrong.`
          : `After a form ${mistake}, what was typed is gone.`,
        actual: saysWhy ? 'an empty form' : 'no error',
        expected: saysWhy ? 'the form with what was typed' : 'the error',
        fix: (template) => (saysWhy ? keepValues(template) : addErrors(template)),
      })
  }
  // One mistake is enough as a witness of errors that are not shown.
  const seen = new Set<string>()
  return faults.filter(({ expected }) => !seen.has(expected + action) && seen.add(expected + action))
}

const EXPECTED = new Set([
  'name',
  'email',
  'site',
  'text',
  'token',
  'parent',
  'comment',
  'remember',
  'do',
  HONEYPOT,
])

const TYPES: Readonly<Record<CommentField, string>> = { name: 'text', email: 'email', site: 'url' }

/** Returns the field that looks like one that is missing: by its type, and by a name that nothing reads. */
const misnamed = ({ fields }: PageForm, missing: CommentField): FormField | undefined =>
  fields.find((one) => one.type === TYPES[missing] && !EXPECTED.has(one.name))

function notStored(facts: Facts, { action, sent }: CommentProbe, form: PageForm): Fault {
  const names = new Set(form.fields.map((one) => one.name))
  const label = (what: string) => `${what} the form in the template`
  const status = `${sent?.status ?? 'no answer'}`
  if (form.method !== 'post')
    return {
      cause: `The form is sent with ${form.method.toUpperCase()}, which adds nothing.`,
      actual: `method="${form.method}"`,
      expected: 'method="post"',
      fix: (template) =>
        changeFormTag(template, label('Set the method of'), 'The form is sent with POST.', (tag) =>
          withAttribute(tag, 'method', 'post'),
        ),
    }
  if (sent?.route !== action)
    return {
      cause: `The form is sent to ${form.action ?? 'another site'}, which the route “${action}” does not answer.`,
      actual: form.action ?? 'another site',
      expected: `the address of “${action}”`,
      fix: (template) =>
        changeFormTag(template, label('Set the action of'), `The form is sent to “${action}”.`, (tag) =>
          withAttribute(tag, 'action', `{{ '${action}' | url${argumentsOf(facts, action)} }}`),
        ),
    }
  if (form.encoding !== 'application/x-www-form-urlencoded')
    return {
      cause: `The form is sent as ${form.encoding}, which is not accepted.`,
      actual: form.encoding,
      expected: 'application/x-www-form-urlencoded',
      fix: (template) =>
        changeFormTag(
          template,
          label('Remove the encoding of'),
          'The form is sent with the usual encoding.',
          (tag) => tag.replace(/\s+enctype\s*=\s*("[^"]*"|'[^']*'|[^\s>]+)/i, ''),
        ),
    }
  if (!names.has('token'))
    return {
      cause: 'The form has no token, without which nothing is accepted.',
      actual: 'no field “token”',
      expected: '{{ form.token }}',
      fix: (template) =>
        changeFormTag(
          template,
          'Add the token to the form',
          'The form sends the token of its reader.',
          (tag) => `${tag}\n  <input type="hidden" name="token" value="{{ form.token }}">`,
        ),
    }
  if (!names.has('text')) {
    const area = form.fields.find((one) => one.type === 'textarea')?.name
    return {
      cause: 'No field is called “text”, so the comment itself is not sent.',
      actual: area === undefined ? 'a text area without a name' : `name="${area}"`,
      expected: 'name="text"',
      fix: (template) => nameTextArea(template),
    }
  }
  return {
    cause: `What was typed is not accepted: the answer is ${status}.`,
    actual: status,
    expected: '303',
    fix: (template) => renameField(template, misnamed(form, 'name')?.name, 'name'),
  }
}

/** Returns the arguments of `url` for an action, e.g. `: slug: post.slug`. */
function argumentsOf(facts: Facts, action: string): string {
  const names = Object.keys(routeOf(facts, action)?.route.params ?? {})
  return names.length === 0 ? '' : `: ${names.map((name) => `${name}: post.${name}`).join(', ')}`
}

/** A tag of a text area, and what is in it. */
const TEXT_AREA = /<textarea\b((?:\{\{[\s\S]*?\}\}|\{%[\s\S]*?%\}|"[^"]*"|[^>"])*)>/i

const nameTextArea = ({ document, text }: Template): Fix[] =>
  saveFix(
    document,
    text.replace(
      TEXT_AREA,
      (_, attributes: string) => `<textarea name="text"${attributes.replace(/\sname="[^"]*"/, '')}>`,
    ),
    'Call the text area “text”',
    'The comment is sent as “text”.',
  )

const renameField = ({ document, text }: Template, from: string | undefined, to: string): Fix[] =>
  from === undefined
    ? []
    : saveFix(
        document,
        text.includes(`name="${from}"`) ? text.replaceAll(`name="${from}"`, `name="${to}"`) : undefined,
        `Call the field “${to}”`,
        `What is typed is sent as “${to}”.`,
      )

const addErrors = (template: Template): Fix[] =>
  changeFormTag(
    template,
    'Show the errors above the fields',
    'After a mistake, the page says what is wrong.',
    (tag) =>
      `${tag}\n  {%- if form.errors %}\n  <ul role="alert">\n    {%- for error in form.errors.all %}\n    <li>{{ error.text }}</li>\n    {%- endfor %}\n  </ul>\n  {%- endif %}`,
  )

/** Prints the values that were typed. */
function keepValues({ document, text }: Template): Fix[] {
  const kept = text
    .replace(
      /(<textarea\b(?:\{\{[\s\S]*?\}\}|\{%[\s\S]*?%\}|"[^"]*"|[^>"])*>)\s*(<\/textarea>)/i,
      '$1{{ form.values.text }}$2',
    )
    .replace(/<input\b[^>]*?\bname="(name|email|site)"[^>]*?(?=>)/gi, (tag: string, name: string) =>
      /\bvalue\s*=\s*"\{\{/.test(tag)
        ? tag
        : `${tag.replace(/\s+value\s*=\s*"[^"]*"/i, '')} value="{{ form.values.${name} }}"`,
    )
  return kept === text
    ? []
    : saveFix(
        document,
        kept,
        'Print the values that were typed',
        'After a mistake, what was typed is still in the form.',
      )
}
