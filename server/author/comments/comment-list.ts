/** What can be wrong with a list of comments: posts that do not exist, times, and replies to nothing. */
import { invalidTime, readTime } from '../../../core/content/times.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import type { Comments } from '../../../core/shapes/content-schemas.ts'
import type { Static } from '../../../core/shapes/schemas.ts'
import { FOLDER_PROBLEMS, ROW_PROBLEMS } from '../problems.ts'

export type CommentFile = Static<typeof Comments>

/** Returns what is wrong with the posts, the times and the replies of a list of comments. */
export function commentListProblems(
  comments: CommentFile,
  slugs: ReadonlySet<string>,
  { file, now, timeZone }: { file: string; now: Date; timeZone: string },
): Problem[] {
  const places = new Map(comments.map((one, index) => [one.id, index]))
  return comments.flatMap((comment, index) => [
    ...replyProblems(comments, places, index, file),
    ...(slugs.has(comment.post)
      ? []
      : [{ file, path: `/${index}/post`, ...ROW_PROBLEMS['row-unknown']('post', comment.post) }]),
    ...(['at', 'state-at', 'edited'] as const).flatMap((field) => {
      const text = comment[field]
      return text === undefined || readTime(text, now, timeZone)
        ? []
        : [{ file, path: `/${index}/${field}`, ...invalidTime(text) }]
    }),
  ])
}

/** A reply comes after the comment that it replies to, on the same post. */
function replyProblems(
  comments: CommentFile,
  places: ReadonlyMap<string | number | undefined, number>,
  index: number,
  file: string,
): Problem[] {
  const { post, 'reply-to': wanted, id } = comments[index] ?? {}
  const path = (field: string) => `/${index}/${field}`
  const repeated =
    id !== undefined && places.get(id) !== index
      ? [{ file, path: path('id'), ...FOLDER_PROBLEMS['folder-comment-id-repeated'](String(id)) }]
      : []
  if (wanted === undefined) return repeated
  const at = places.get(wanted)
  const isThere = at !== undefined && at < index && comments[at]?.post === post
  return isThere
    ? repeated
    : [
        ...repeated,
        {
          file,
          path: path('reply-to'),
          ...FOLDER_PROBLEMS['folder-comment-reply-unknown'](String(wanted)),
        },
      ]
}
