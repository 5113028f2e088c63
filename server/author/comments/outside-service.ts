/** Copies comments to the outside service and back. Comments that already exist on the other side are left unchanged. */
import { Type, type Static } from 'typebox'
import { MoreThan } from 'typeorm'
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
const LARGEST = 48 * 1024 * 1024
/** The number of comments per request. */
const BATCH = 500
/** The maximum number of comments that are copied from the service, in one transaction. */
const MOST = 20_000
/** The maximum depth of imported replies. Deeper ones move up to this level. */
const DEEPEST = 5
const FILE = 'comments'

const Count = Type.Integer({ minimum: 0 })
const Received = Type.Object({ added: Count, known: Count })
const Listed = Type.Object({ comments: OutsideComments, total: Count })

/** Returns the declared service. @param key the key that authorises calls */
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

/** Calls the service. The answer is not validated yet. */
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
      // A redirect must not send the key to another origin.
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

/** Copies all comments to the service, some at a time. */
export async function sendComments(
  ports: OutsidePorts,
  service: Service,
): Promise<Outcome<{ added: number; known: number }>> {
  const comments = ports.database.getRepository(CommentEntity)
  const threadOfPost = threadsBy(ports, service)
  const sent = { added: 0, known: 0 }
  for (let after = 0; ;) {
    const rows = await comments.find({
      where: { id: MoreThan(after) },
      relations: { post: true },
      select: { post: { id: true, slug: true } },
      order: { id: 'ASC' },
      take: BATCH,
    })
    if (rows.length === 0) return success(sent)
    const answered = await call(service, 'POST', '/api/comments', {
      site: service.site,
      comments: rows.map((one): OutsideComment => ({
        key: ownKey(one.id),
        thread: threadOfPost(one.post),
        parent: one.parentId === null ? null : ownKey(one.parentId),
        name: one.name,
        text: one.text,
        at: one.createdAt.toISOString(),
        state: one.state,
      })),
    })
    if (!answered.ok) return answered
    const problems = checkValue(FILE, answered.value, Received)
    if (problems.length > 0) return refused(...problems)
    const { added, known } = answered.value as Static<typeof Received>
    sent.added += added
    sent.known += known
    after = rows.at(-1)?.id ?? after
  }
}

/** Returns a function that returns the thread identifier of a post. */
function threadsBy(ports: OutsidePorts, { identifier }: OutsideService) {
  const origin = publicOrigin(ports)
  return ({ id, slug }: { id: number; slug: string }): string =>
    threadOf(identifier, {
      id,
      slug,
      address: identifier === 'address' ? origin + (addressFor(ports, 'post', slug)?.path ?? '') : '',
    })
}

const listPath = ({ site }: Service, from: number, limit: number) =>
  `/api/comments?${new URLSearchParams({ site, from: String(from), limit: String(limit) }).toString()}`

async function list(service: Service, from: number, limit: number): Promise<Outcome<Static<typeof Listed>>> {
  const answered = await call(service, 'GET', listPath(service, from, limit))
  if (!answered.ok) return answered
  const problems = checkValue(FILE, answered.value, Listed)
  return problems.length > 0 ? refused(...problems) : success(answered.value as Static<typeof Listed>)
}

/** Returns the number of comments at the service. */
export async function countOutside(service: Service): Promise<Outcome<number>> {
  const listed = await list(service, 0, 0)
  return listed.ok ? success(listed.value.total) : listed
}

/** Returns all comments of the service, read in batches. */
export async function listOutside(service: Service): Promise<Outcome<OutsideComment[]>> {
  const all: OutsideComment[] = []
  for (;;) {
    const listed = await list(service, all.length, BATCH)
    if (!listed.ok) return listed
    const { comments, total } = listed.value
    if (total > MOST)
      return refused({ file: FILE, ...COMMENT_PROBLEMS['comment-service-too-many'](total, MOST) })
    all.push(...comments)
    if (comments.length === 0 || all.length >= total) return success(all)
  }
}

/** Adds comments that were written at the service. @returns also `lost`, the number that belong to no post */
export async function addOutside(
  { manager, definition, now }: Writing,
  ports: OutsidePorts & CursorKeyPort,
  { service, comments }: { service: Service; comments: readonly OutsideComment[] },
): Promise<Outcome<{ imported: number; known: number; lost: number }>> {
  const threadOfPost = threadsBy(ports, service)
  const all = await manager.getRepository(PostEntity).find({ select: { id: true, slug: true } })
  const posts = new Map(all.map((one) => [threadOfPost(one), one]))
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
  // The service does not guarantee that parents come before replies, but replies are written later.
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
