/** Finds comment forms that are shown although the comments of the post are closed. */
import { formsClaim, placeOfForm } from '../comments.ts'
import { witness, type Rule } from '../rule.ts'

export const commentFormWhenClosed: Rule = {
  id: 'comment-form-when-closed',
  area: 'comments',
  meaning: 'The page of a post shows the comment form although its comments are closed.',
  why: 'Readers write a comment that is then rejected.',
  async run(facts) {
    const probes = (await facts.comments()).filter((one) => one.form !== null)
    const findings = probes
      .filter((one) => one.hasFormWhenClosed)
      .map(({ action, page, then }) => ({
        subject: action,
        title: 'The comment form is shown although comments are closed',
        detail: `Comments on ${page} were closed to try it, and the page still has the form.`,
        affects: 'now' as const,
        witness: witness(page, 'The page after its comments were closed', 'a form', 'no form'),
        cause: 'The form is not inside {% if form.isOpen %}.',
        place: placeOfForm(facts, then),
        others: [],
        fixes: [],
      }))
    return { findings, claim: formsClaim('A post whose comments are closed has no form', probes) }
  },
}
