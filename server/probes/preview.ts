/** A page of the blog as its author would see it after a change, which is then taken back. */
import { randomUUID } from 'node:crypto'
import type { EntityManager } from 'typeorm'
import { answer } from '../reader/answer.ts'
import type { Blog } from '../reader/blog.ts'
import { rehearse } from './rehearse.ts'

/**
 * @param change made in a transaction that never commits
 * @param pathOf the address that is asked then; null: nothing shows it
 */
export const previewAt = (
  blog: Blog,
  change: (manager: EntityManager) => Promise<void>,
  pathOf: () => string | null,
): Promise<{ status: number; html: string }> =>
  rehearse(blog, change, async (changed) => {
    const path = pathOf()
    if (path === null) return { status: 404, html: '' }
    const { status, body } = await answer(changed, {
      id: randomUUID(),
      method: 'GET',
      target: path,
      as: 'author',
      header: () => undefined,
      form: () => Promise.resolve({ ok: false, status: 415, reason: '' }),
    })
    return { status, html: body }
  })
