/** Finds actions for comments that no form is sent to, or whose page does not show what was sent. */
import { removeRoute, replaceRoute } from '../../blog/edit.ts'
import type { CommentProbe } from '../comment-facts.ts'
import { templatePath } from '../../shapes/documents.ts'
import { formsClaim } from '../comments.ts'
import type { Facts } from '../facts.ts'
import type { Fix } from '../finding.ts'
import { fixRoutes, placeOfRoute, routeOf, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

export const commentActionWithoutPage: Rule = {
  id: 'comment-action-without-page',
  area: 'comments',
  meaning: 'No page has a form for an action, or the page that follows does not show the comment.',
  why: 'Only programs can send comments then, or readers think that theirs was lost and send it again.',
  async run(facts) {
    const probes = await facts.comments()
    const findings = probes.flatMap((probe): RuleFinding[] => {
      // A form that is there and does not work is the finding of another rule.
      if (probe.form === null && !probe.sentTo.includes(probe.action)) return [withoutForm(facts, probe)]
      return probe.sent?.isStored && !probe.sent.isShown ? [notShown(facts, probe, probe.sent.next)] : []
    })
    return {
      findings,
      claim: formsClaim(
        'The action has a form, and the page that follows shows the comment to its writer',
        probes,
      ),
    }
  },
}

const withoutForm = (facts: Facts, { action, page, then, actionPath }: CommentProbe): RuleFinding => ({
  subject: `${action} form`,
  title: `No page has a form for “${action}”`,
  detail: `${page} has no form with a text area, and no requested page has a form that is sent to ${actionPath}.`,
  affects: 'now',
  witness: witness(page, 'The page as a reader gets it', 'no form', `a form sent to ${actionPath}`),
  cause: `The action “${action}” accepts comments, and no template has a form for it.`,
  place: placeOfRoute(facts, action),
  others: [],
  fixes: [
    ...addForm(facts, action, then),
    ...fixRoutes(facts, `Delete the route “${action}”`, 'No comments are accepted at this address.', (text) =>
      removeRoute(text, action),
    ),
  ],
})

/** Adds a form to the page that shows the comments. */
function addForm(facts: Facts, action: string, then: string): Fix[] {
  const names = Object.keys(routeOf(facts, action)?.route.params ?? {})
  const address = [`'${action}' | url`, names.map((one) => `${one}: post.${one}`).join(', ')]
  const form = `{% if form.isOpen %}
<form id="say" method="post" action="{{ ${address.filter((one) => one !== '').join(': ')} }}">
  {%- if form.errors %}
  <ul role="alert">
    {%- for error in form.errors.all %}
    <li>{{ error.text }}</li>
    {%- endfor %}
  </ul>
  {%- endif %}
  <input type="hidden" name="token" value="{{ form.token }}">
  {% if form.parent %}<input type="hidden" name="parent" value="{{ form.parent.id }}">{% endif %}
  <p><label>Name <input name="name" value="{{ form.values.name }}"></label></p>
  <p><label>Comment <textarea name="text">{{ form.values.text }}</textarea></label></p>
  <button>Send</button>
</form>
{% endif %}
`
  const document = templatePath(routeOf(facts, then)?.route.template ?? '')
  const text = facts.documents.get(document)
  return saveFix(
    document,
    text?.replace(/<\/main>|(?=\{%-?\s*endblock\s*-?%\}\s*$)|<\/body>|$/, (end) => form + end),
    `Add a form to ${document}`,
    'Readers can send comments from this page.',
  )
}

const notShown = (facts: Facts, { action, page, then }: CommentProbe, next: string | null): RuleFinding => ({
  subject: `${action} page`,
  title: 'Readers do not see the comment that they have sent',
  detail: `A comment sent from ${page} was stored, and ${next ?? 'the page that follows'} does not show it to its writer.`,
  affects: 'now',
  witness: witness(
    next,
    'The page that follows a comment, as its writer gets it',
    'no comment',
    'the comment',
  ),
  cause: `The page of “${then}” does not show comments, or not those that wait: {{ form.waiting }} has them.`,
  place: placeOfRoute(facts, action),
  others: [],
  fixes: otherPages(facts, action, then),
})

/** Proposes each page with the same parameters that shows comments. */
function otherPages(facts: Facts, action: string, then: string): Fix[] {
  const route = routeOf(facts, action)?.route
  if (!route) return []
  const names = Object.keys(route.params ?? {}).join()
  return facts.definition.routes.flatMap(({ route: other }) => {
    const shows = Object.values(other.data ?? {}).some((entry) => {
      const query = typeof entry === 'string' ? entry : entry.query
      return facts.definition.queries.get(query)?.from === 'comments'
    })
    if (other.name === then || !shows || Object.keys(other.params ?? {}).join() !== names) return []
    return fixRoutes(
      facts,
      `Go on to “${other.name}”`,
      `After a comment, readers see the page of “${other.name}”.`,
      (text) => replaceRoute(text, action, (declared) => ({ ...declared, then: other.name })),
    )
  })
}
