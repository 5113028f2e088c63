/** Comments of readers, for tests. */
import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, beforeEach, expect } from 'vitest'
import { success } from '../../core/shapes/outcome.ts'
import { answer, type AnswerPorts } from '../reader/answer.ts'
import { formToken } from '../reader/comments/token.ts'
import { visitorOf } from '../reader/comments/visitor.ts'
import { internalRequest, type BlogRequest } from '../reader/request.ts'
import type { BlogResponse } from '../reader/responses.ts'
import { CommentEntity } from '../store/entities/content.ts'
import type { BlogOptions } from '../reader/blog.ts'
import { testBlog, type TestBlog } from './database.ts'
import { saveTexts, textOf } from './edits.ts'
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

export interface StoredComment {
  id: number
  name: string
  text: string
  state: CommentEntity['state']
  depth: number
  reasons: { code: string }[]
}

/** The demo's post `moth`, to which comments are sent. */
export function commentedPage(test: TestBlog) {
  const OF_MOTH = "SELECT id FROM post WHERE slug = 'moth'"
  return {
    /** Removes its comments, and what was counted for the rates. */
    async clear(): Promise<void> {
      await test.database.query(`DELETE FROM comment WHERE post_id IN (${OF_MOTH})`)
      await test.database.query('DELETE FROM comment_rate')
      test.blog.fragments.clear('changed by SQL')
    },
    get: (target: string, cookies: BlogRequest['cookies'] = {}) =>
      answer(test.blog, internalRequest(target, { cookies })),
    send: (fields: Record<string, string>, more: Parameters<typeof sendComment>[3] = {}) =>
      sendComment(test.blog, 'moth', { name: 'Vera', ...fields }, more),
    stored: () =>
      test.database.query<StoredComment[]>(`SELECT * FROM comment WHERE post_id IN (${OF_MOTH}) ORDER BY id`),
    setState: (name: string, state: CommentEntity['state']) =>
      test.blog.store.write(async ({ manager }) => {
        await manager.update(CommentEntity, { name }, { state })
        return success(null)
      }),
    /** Does something under other comment rules, and restores the rules. */
    async withRules(rules: string, work: () => Promise<void>): Promise<void> {
      const settings = await textOf(test.blog, 'blog.yaml')
      const saved = await saveTexts(test.blog, {
        'blog.yaml': settings.replace(/^comments:\n(?: {2}.*\n)*/m, `comments: ${rules}\n`),
      })
      expect(saved.ok ? [] : saved.problems).toEqual([])
      try {
        await work()
      } finally {
        await saveTexts(test.blog, { 'blog.yaml': settings })
      }
    },
  }
}
export type CommentedPage = ReturnType<typeof commentedPage>

export interface CommentedDemo {
  test: TestBlog
  page: CommentedPage
}

/**
 * Prepares a demo for the tests of a file, and removes the comments of `moth` before each test.
 * @param take receives it before the first test
 */
export function useCommentedDemo(
  take: (made: CommentedDemo) => void,
  options: Partial<BlogOptions> = { origins: ['http://b.test'] },
): void {
  let made: CommentedDemo | undefined
  beforeAll(async () => {
    const test = await testBlog(options)
    made = { test, page: commentedPage(test) }
    take(made)
  })
  afterAll(() => made?.test.close())
  beforeEach(() => made?.page.clear())
}
