/** Comments of readers, for tests. */
import { randomUUID } from 'node:crypto'
import { answer, type AnswerPorts } from '../reader/answer.ts'
import { formToken } from '../reader/comments/token.ts'
import { visitorOf } from '../reader/comments/visitor.ts'
import type { BlogRequest } from '../reader/request.ts'
import type { BlogResponse } from '../reader/responses.ts'
import { formRequest } from './requests.ts'

/** A minute: nobody who writes is faster than the rules allow. */
const OPEN = 60_000

/** Sends a comment with a form that was open for a minute. */
export function sendComment(
  blog: AnswerPorts,
  slug: string,
  fields: Readonly<Record<string, string>>,
  { token, ...more }: Partial<BlogRequest> & { token?: { id?: string; open?: number } } = {},
): Promise<BlogResponse> {
  const request = formRequest(`/posts/${slug}/comments`, {}, more)
  const { writer } = visitorOf(blog, request)
  const made = formToken(
    blog,
    token?.id ?? randomUUID(),
    { writer, client: request.client },
    new Date(blog.clock().getTime() - (token?.open ?? OPEN)),
  )
  const form = () => Promise.resolve({ ok: true as const, fields: { token: made, ...fields } })
  return answer(blog, { ...request, form })
}

/** Returns a page without the tokens of its forms, which are different each time. */
export const withoutTokens = (html: string): string => html.replace(/name="token" value="[^"]*"/g, '')
