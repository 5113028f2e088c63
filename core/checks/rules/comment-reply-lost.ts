/** Finds pages on which readers cannot reply to a comment, or whose replies lose the comment that they answer. */
import { formsClaim, placeOfForm } from '../comments.ts'
import { witness, type Rule } from '../rule.ts'

export const commentReplyLost: Rule = {
  id: 'comment-reply-lost',
  area: 'comments',
  meaning:
    'The comment rules allow replies, and readers cannot reply, or a reply becomes a comment of its own.',
  why: 'Answers appear apart from the comments that they answer.',
  async run(facts) {
    // A page without comments is the finding of another rule.
    const probes = (await facts.comments()).filter(({ reply, pages }) =>
      pages.some((one) => one.path === reply?.page && one.accepts === 'html' && one.shows.includes('shown')),
    )
    const findings = probes.flatMap(({ action, then, reply }) => {
      if (reply === null || reply.hasParent) return []
      const { page, link } = reply
      const isWithoutLink = link === null
      return [
        {
          subject: action,
          title: isWithoutLink
            ? `Readers cannot reply to comments on ${page}`
            : `A reply on ${page} loses the comment that it answers`,
          detail: isWithoutLink
            ? 'Comments have no link with the parameter “reply”, and blog.yaml allows replies.'
            : `The form at ${link} does not send the id of the comment.`,
          affects: 'now' as const,
          witness: isWithoutLink
            ? witness(page, 'The page with a comment that was added', 'no link to reply', '?reply=ID')
            : witness(
                link,
                'The form with which readers reply',
                'no field “parent”',
                '<input name="parent" …>',
              ),
          cause: isWithoutLink
            ? 'Add a link with “url_with: reply: comment.id” to each comment, or set “depth: 0” under “comments” in blog.yaml.'
            : 'Add <input type="hidden" name="parent" value="{{ form.parent.id }}"> to the form.',
          place: placeOfForm(facts, then),
          others: [],
          fixes: [],
        },
      ]
    })
    return {
      findings,
      claim: formsClaim('Readers can reply where the comment rules allow it', probes),
    }
  },
}
