/** Finds comment forms that are shown although the comments of the post are closed, and those that posts without comments lack. */
import { formsClaim, placeOfForm } from '../comments.ts'
import { witness, type Rule } from '../rule.ts'

export const commentFormWhenClosed: Rule = {
  id: 'comment-form-when-closed',
  area: 'comments',
  meaning:
    'The page of a post shows the comment form although its comments are closed, or does not show it if there are no comments yet.',
  why: 'Readers write a comment that is then rejected, or cannot write the first one.',
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
    const missing = probes
      .filter((one) => !one.hasFormWithoutComments)
      .map(({ action, page, then }) => ({
        subject: `${action} first`,
        title: 'Nobody can write the first comment on a post',
        detail: `The comments on ${page} were deleted to try it, and the form disappeared with them.`,
        affects: 'now' as const,
        witness: witness(page, 'The page after its comments were deleted', 'no form', 'a form'),
        cause: 'The form is inside a condition that asks for comments.',
        place: placeOfForm(facts, then),
        others: [],
        fixes: [],
      }))
    return {
      findings: [...findings, ...missing],
      claim: formsClaim(
        'A post has a form exactly if its comments are open, whether it has comments or not',
        probes,
      ),
    }
  },
}
