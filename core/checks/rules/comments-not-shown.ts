/** Finds pages with a comment form that never show an approved comment, or not who wrote it. */
import { formsClaim } from '../comments.ts'
import { placeInTemplates } from '../page-place.ts'
import { withoutQuery } from '../page/addresses.ts'
import { placeOfRoute, witness, type Rule } from '../rule.ts'

export const commentsNotShown: Rule = {
  id: 'comments-not-shown',
  area: 'comments',
  meaning:
    'Readers can send comments, and the page does not show them once they are approved, or not with the names that readers must give.',
  why: 'Readers write comments that nobody sees, or cannot tell who answers whom.',
  async run(facts) {
    const probes = (await facts.comments()).filter((one) => one.form !== null)
    const findings = probes
      .filter(({ page, formPage, pages }) => {
        // The latest comments of all posts, in an aside, are not the comments of the post.
        const own = pages.filter(
          (one) => one.accepts === 'html' && [page, formPage].includes(withoutQuery(one.path)),
        )
        return own.length > 0 && !own.some((one) => one.shows.includes('shown'))
      })
      .map(({ action, page, then }) => ({
        subject: action,
        title: `The comments that are sent from ${page} are not shown there`,
        detail: 'A comment that is approved was added, and the page does not have it.',
        affects: 'now' as const,
        witness: witness(page, 'The page after an approved comment was added', 'no comment', 'the comment'),
        cause: `The template of “${then}” does not render the comments of its post.`,
        place: placeOfRoute(facts, then),
        others: [],
        fixes: [],
      }))
    const nameless = probes.filter((one) => !one.isNamed && !one.optional.includes('name'))
    const unnamed = nameless.map(({ action, page, then }) => ({
      subject: `${action} name`,
      title: `${page} shows comments without the names of their writers`,
      detail: 'blog.yaml requires a name, and a comment that was added is shown without it.',
      affects: 'now' as const,
      witness: witness(page, 'The name of an approved comment that was added', 'not shown', 'the name'),
      cause: 'The template prints the text of a comment only. Add {{ comment.name }}.',
      place: placeInTemplates(facts, then, /\{\{-?\s*comment\.html/),
      others: [],
      fixes: [],
    }))
    return {
      findings: [...findings, ...unnamed],
      claim: formsClaim('Approved comments are shown, with the names that are required', probes),
    }
  },
}
