/** Copies comments to the outside service and back. What exists on the other side already stays as it is there. */
import {
  OutsideComments,
  ownId,
  ownKey,
  threadOf,
  type OutsideComment,
  type OutsideService,
} from '../../../core/comments/outside.ts'
import { cleanLine, cleanText } from '../../../core/comments/text.ts'
import { refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import { checkValue } from '../../../core/shapes/yaml.ts'
import type {
  CommentServicePort,
  CursorKeyPort,
  DatabasePort,
  OriginsPort,
  SitePort,
} from '../../publish/ports.ts'
import { addressFor } from '../../reader/addresses/slug-address.ts'
import { serviceOrigin } from '../../reader/comments/form.ts'
import { publicOrigin } from '../../reader/comments/mail-links.ts'
import { CommentEntity, PostEntity } from '../../store/entities/content.ts'
import { COMMENT_PROBLEMS } from '../problems.ts'
import type { Writing } from '../writing.ts'
import { insertComments } from './comment-files.ts'
import type { CommentFile } from './comment-list.ts'

export type OutsidePorts = SitePort & OriginsPort & CommentServicePort & DatabasePort

/** How long the service may take, in milliseconds. */
const PATIENCE = 20_000
/** The maximum size of an answer, in bytes. */
const LARGEST = 64 * 1024 * 1024
/** Levels of replies that are kept; deeper ones join the last. */
const DEEPEST = 5
const FILE = 'comments'

/** The service in force. @param key signs calls */
export function serviceOf(
  ports: OutsidePorts,
  key: string | null,
): Outcome<OutsideService & { origin: string; key: string }> {
  const { comments } = ports.site.definition
  const origin = serviceOrigin(ports, comments)
  if (!comments.outside || origin === undefined)
    return refused({ file: FILE, ...COMMENT_PROBLEMS['comment-service-unset']() })
  return key === null
    ? refused({ file: FILE, ...COMMENT_PROBLEMS['comment-service-key-missing']() })
    : success({ ...comments.outside, origin, key })
}

type Service = OutsideService & { origin: string; key: string }

/** Calls the service. What it answers is a value that nobody has checked. */
async function call(
  { origin, key }: Service,
  method: 'GET' | 'POST',
  path: string,
  body?: unknown,
): Promise<Outcome<unknown>> {
  const failed = (reason: string) =>
    refused({ file: FILE, ...COMMENT_PROBLEMS['comment-service-failed'](origin, reason) })
  try {
    const response = await fetch(origin + path, {
      method,
      headers: {
        authorization: `Bearer ${key}`,
        accept: 'application/json',
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
      },
      // Another address than the declared one never gets the key.
      redirect: 'error',
      signal: AbortSignal.timeout(PATIENCE),
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    })
    if (!response.ok) {
      await response.body?.cancel()
      return failed(`it answered ${response.status}.`)
    }
    const parts: Uint8Array[] = []
    let length = 0
    for await (const part of response.body ?? []) {
      length += part.byteLength
      if (length > LARGEST) return failed('its answer is too large.')
      parts.push(part)
    }
    return success(JSON.parse(Buffer.concat(parts).toString('utf8')) as unknown)
  } catch (error) {
    const isLate = error instanceof Error && error.name === 'TimeoutError'
    return failed(
      isLate
        ? `it took longer than ${PATIENCE / 1_000} s.`
        : error instanceof SyntaxError
          ? 'its answer is not JSON.'
          : 'it cannot be reached.',
    )
  }
}

interface Threaded {
  id: number
  slug: string
  thread: string
}

/** Returns all posts with the names of their threads. */
async function threadsOf(ports: OutsidePorts, { identifier }: OutsideService): Promise<Threaded[]> {
  const posts = await ports.database.getRepository(PostEntity).find({ select: { id: true, slug: true } })
  const origin = publicOrigin(ports)
  return posts.map(({ id, slug }) => ({
    id,
    slug,
    thread: threadOf(identifier, {
      id,
      slug,
      address: origin + (addressFor(ports, 'post', slug)?.path ?? `/${slug}`),
    }),
  }))
}

/** Copies all comments to the service. */
export async function sendComments(
  ports: OutsidePorts,
  service: Service,
): Promise<Outcome<{ added: number; known: number }>> {
  const threads = new Map((await threadsOf(ports, service)).map((one) => [one.id, one.thread]))
  const rows = await ports.database.getRepository(CommentEntity).find({ order: { id: 'ASC' } })
  const comments: OutsideComment[] = rows.map((one) => ({
    key: ownKey(one.id),
    thread: threads.get(one.postId) ?? '',
    parent: one.parentId === null ? null : ownKey(one.parentId),
    name: one.name,
    text: one.text,
    at: one.createdAt.toISOString(),
    state: one.state,
  }))
  const answered = await call(service, 'POST', '/api/comments', { site: service.site, comments })
  if (!answered.ok) return answered
  const { added, known } = (answered.value ?? {}) as { added?: unknown; known?: unknown }
  return success({ added: Number(added) || 0, known: Number(known) || 0 })
}

/** Returns all comments of the service. */
export async function listOutside(service: Service): Promise<Outcome<OutsideComment[]>> {
  const answered = await call(service, 'GET', `/api/comments?site=${encodeURIComponent(service.site)}`)
  if (!answered.ok) return answered
  const value = (answered.value as { comments?: unknown } | null)?.comments
  const problems = checkValue(FILE, value, OutsideComments)
  return problems.length > 0 ? refused(...problems) : success(value as OutsideComment[])
}

/** Adds comments that were written at the service. @returns also how many belong to no post */
export async function addOutside(
  { manager, definition, now }: Writing,
  ports: OutsidePorts & CursorKeyPort,
  { service, comments }: { service: Service; comments: readonly OutsideComment[] },
): Promise<Outcome<{ imported: number; known: number; lost: number }>> {
  const posts = new Map((await threadsOf(ports, service)).map((one) => [one.thread, one]))
  const found = comments.map((one) => ownId(one.key)).filter((id) => id !== undefined)
  const existing = await manager
    .getRepository(CommentEntity)
    .createQueryBuilder('comment')
    .select(['comment.id', 'comment.depth'])
    .where('comment.id = ANY (:found)', { found })
    .getMany()
  const known = new Map(existing.map((one) => [ownKey(one.id), one.id]))
  const depths = new Map(existing.map((one) => [ownKey(one.id), one.depth]))
  const above = new Map(comments.map((one) => [one.key, one.parent]))
  const rows: CommentFile = []
  let lost = 0
  // The service does not promise that a reply comes after what it replies to, but it was written later.
  for (const one of [...comments].sort((a, b) => a.at.localeCompare(b.at))) {
    if (known.has(one.key)) continue
    const post = posts.get(one.thread)
    const name = cleanLine(one.name)
    const text = cleanText(one.text)
    if (!post || name === '' || text === '') {
      lost++
      continue
    }
    let parent = one.parent !== null && depths.has(one.parent) ? one.parent : null
    while (parent !== null && (depths.get(parent) ?? 0) >= DEEPEST) parent = above.get(parent) ?? null
    depths.set(one.key, parent === null ? 0 : (depths.get(parent) ?? 0) + 1)
    rows.push({
      id: one.key,
      post: post.slug,
      ...(parent === null ? {} : { 'reply-to': parent }),
      name,
      text,
      at: one.at,
      state: one.state,
    })
  }
  const imported = await insertComments(manager, ports, rows, {
    posts: new Map([...posts.values()].map((one) => [one.slug, one.id])),
    now,
    timeZone: definition.timeZone,
    isRepeatable: true,
    known,
  })
  return success({ imported, known: comments.length - lost - imported, lost })
}
