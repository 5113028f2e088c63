/** Comments as JSON and CSV: exported without loss, and imported again, all or nothing. */
import { parse } from 'csv-parse/sync'
import { stringify } from 'csv-stringify/sync'
import type { DataSource, EntityManager } from 'typeorm'
import type { CommentReason } from '../../../core/comments/judge.ts'
import { readTime } from '../../../core/content/times.ts'
import { checkValue } from '../../../core/shapes/yaml.ts'
import { refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { Comments } from '../../../core/shapes/content-schemas.ts'
import type { CursorKeyPort } from '../../publish/ports.ts'
import { avatarOf } from '../../reader/comments/visitor.ts'
import { CommentEntity, PostEntity } from '../../store/entities/content.ts'
import { commentListProblems, type CommentFile } from './comment-list.ts'
import { FOLDER_PROBLEMS } from '../problems.ts'
import type { Writing } from '../writing.ts'

type CommentRow = CommentFile[number]

/** Comments that are read at a time. */
const BATCH = 1_000

/** Yields all comments in the order of their ids, in which replies follow what they reply to. */
async function* everyComment(database: DataSource): AsyncGenerator<CommentRow[]> {
  for (let after = 0; ;) {
    const rows = await database
      .getRepository(CommentEntity)
      .createQueryBuilder('comment')
      .innerJoinAndSelect('comment.post', 'post')
      .where('comment.id > :after', { after })
      .orderBy('comment.id')
      .take(BATCH)
      .getMany()
    if (rows.length > 0) yield rows.map(fileRow)
    if (rows.length < BATCH) return
    after = rows.at(-1)?.id ?? after
  }
}

function fileRow(one: CommentEntity): CommentRow {
  return {
    id: one.id,
    post: one.post.slug,
    ...(one.parentId === null ? {} : { 'reply-to': one.parentId }),
    name: one.name,
    ...(one.email === '' ? {} : { email: one.email }),
    ...(one.site === '' ? {} : { site: one.site }),
    text: one.text,
    state: one.state,
    ...(one.byAuthor ? { 'by-author': true } : {}),
    at: one.createdAt.toISOString(),
    'state-at': one.stateAt.toISOString(),
    ...(one.editedAt === null ? {} : { edited: one.editedAt.toISOString() }),
    ...(one.reasons.length === 0 ? {} : { reasons: one.reasons }),
    ...(one.edits.length === 0 ? {} : { edits: one.edits }),
    ...(one.score === null ? {} : { score: one.score }),
    ...(one.filledIn === null ? {} : { 'filled-in': one.filledIn }),
    ...(one.writer === null ? {} : { writer: one.writer }),
    ...(one.client === null ? {} : { client: one.client }),
    ...(one.avatar === null ? {} : { avatar: one.avatar }),
    ...(one.once === null ? {} : { once: one.once }),
  }
}

export async function* commentsAsJson(database: DataSource): AsyncGenerator<string> {
  let isFirst = true
  for await (const rows of everyComment(database))
    for (const row of rows) {
      yield `${isFirst ? '[\n' : ',\n'}${JSON.stringify(row)}`
      isFirst = false
    }
  yield isFirst ? '[]\n' : '\n]\n'
}

const COLUMNS = [
  ...['id', 'post', 'reply-to', 'name', 'email', 'site', 'text', 'state', 'by-author', 'at', 'state-at'],
  ...['edited', 'reasons', 'edits', 'score', 'filled-in', 'writer', 'client', 'avatar', 'once'],
] as const satisfies (keyof CommentRow)[]

/** Columns that are not texts. */
const AS_JSON = new Set<string>(['id', 'reply-to', 'by-author', 'reasons', 'edits', 'score', 'filled-in'])

/**
 * What a spreadsheet would run gets an apostrophe in front (OWASP, CSV injection), and so does what already has one: so
 * reading can take away exactly one.
 */
const FORMULA = /^'*[=+\-@\t\r]/

export async function* commentsAsCsv(database: DataSource): AsyncGenerator<string> {
  const line = (cells: readonly (readonly string[])[]) =>
    stringify([...cells.map((row) => [...row])], { record_delimiter: '\r\n', quoted_match: /[\r\n]/ })
  yield line([COLUMNS])
  for await (const rows of everyComment(database))
    yield line(
      rows.map((row) =>
        COLUMNS.map((column) => {
          const value = row[column]
          if (value === undefined) return ''
          const text = typeof value === 'string' ? value : JSON.stringify(value)
          return FORMULA.test(text) ? `'${text}` : text
        }),
      ),
    )
}

const FILE = 'comments'

/** Reads a file of comments. */
export function readCommentFile(format: 'json' | 'csv', text: string): Outcome<CommentFile> {
  let value: unknown
  try {
    value = format === 'json' ? JSON.parse(text) : readCsv(text)
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error)
    return refused({ file: FILE, ...FOLDER_PROBLEMS['folder-json-invalid'](`${reason.replace(/\.$/, '')}.`) })
  }
  const problems = checkValue(FILE, value, Comments)
  return problems.length > 0 ? refused(...problems) : success(value as CommentFile)
}

function readCsv(text: string): Record<string, unknown>[] {
  const rows = parse(text, { columns: true, bom: true, skip_empty_lines: true }) as Record<string, string>[]
  return rows.map((row) =>
    Object.fromEntries(
      Object.entries(row).flatMap(([column, typed]) => {
        if (typed === '') return []
        const plain = FORMULA.test(typed) && typed.startsWith("'") ? typed.slice(1) : typed
        return [[column, AS_JSON.has(column) ? (JSON.parse(plain) as unknown) : plain]]
      }),
    ),
  )
}

/** Imports comments of existing posts. Those that exist already stay as they are. */
export async function importComments(
  { manager, definition, now }: Writing,
  key: CursorKeyPort,
  comments: CommentFile,
): Promise<Outcome<{ imported: number; unchanged: number }>> {
  const slugs = [...new Set(comments.map((one) => one.post))]
  const posts = await manager
    .getRepository(PostEntity)
    .createQueryBuilder('post')
    .select(['post.id', 'post.slug'])
    .where('post.slug = ANY (:slugs)', { slugs })
    .getMany()
  const ids = new Map(posts.map((one) => [one.slug, one.id]))
  const problems: Problem[] = commentListProblems(comments, new Set(ids.keys()), {
    file: FILE,
    now,
    timeZone: definition.timeZone,
  })
  if (problems.length > 0) return refused(...problems)
  const imported = await insertComments(manager, key, comments, {
    posts: ids,
    now,
    timeZone: definition.timeZone,
    isRepeatable: true,
  })
  return success({ imported, unchanged: comments.length - imported })
}

/** Inserts comments in their order, in which a reply comes after what it replies to. @param known ids of comments to which others reply, by their ids in the list. @returns how many are new */
export async function insertComments(
  manager: EntityManager,
  key: CursorKeyPort,
  comments: CommentFile,
  {
    posts,
    now,
    timeZone,
    isRepeatable = false,
    known: given = new Map(),
  }: {
    posts: ReadonlyMap<string, number>
    now: Date
    timeZone: string
    isRepeatable?: boolean
    known?: ReadonlyMap<string, number>
  },
): Promise<number> {
  const ids = new Map<string | number | undefined, number>(given)
  const timeOf = (text: string | undefined) =>
    text === undefined ? null : (readTime(text, now, timeZone) ?? null)
  let inserted = 0
  for (const one of comments) {
    const { id, name, email = '', site = '', text, state = 'shown' } = one
    const postId = posts.get(one.post) ?? 0
    const createdAt = timeOf(one.at) ?? now
    const known = isRepeatable ? await sameComment(manager, { postId, createdAt, name, text }) : undefined
    if (known !== undefined) {
      if (id !== undefined) ids.set(id, known)
      continue
    }
    const { identifiers } = await manager.insert(CommentEntity, {
      postId,
      parentId: ids.get(one['reply-to']) ?? null,
      name,
      email,
      site,
      text,
      state,
      stateAt: timeOf(one['state-at']) ?? (state === 'deleted' ? now : createdAt),
      byAuthor: one['by-author'] ?? false,
      reasons: (one.reasons ?? []) as CommentReason[],
      edits: one.edits ?? [],
      score: one.score ?? null,
      filledIn: one['filled-in'] ?? null,
      writer: one.writer ?? null,
      client: one.client ?? null,
      // An exported comment has what it had; one that was written by hand gets a picture.
      avatar: one.avatar ?? (one['state-at'] === undefined ? avatarOf(key, { name, email }) : null),
      once: one.once ?? null,
      createdAt,
      editedAt: timeOf(one.edited),
    })
    inserted++
    if (id !== undefined) ids.set(id, (identifiers[0] as { id: number }).id)
  }
  return inserted
}

async function sameComment(
  manager: EntityManager,
  { postId, createdAt, name, text }: { postId: number; createdAt: Date; name: string; text: string },
): Promise<number | undefined> {
  const found = await manager
    .getRepository(CommentEntity)
    .createQueryBuilder('comment')
    .select('comment.id', 'id')
    .where('comment.postId = :postId AND comment.name = :name AND comment.text = :text', {
      postId,
      name,
      text,
    })
    .andWhere("date_trunc('milliseconds', comment.createdAt) = :createdAt", { createdAt })
    .getRawOne<{ id: number }>()
  return found?.id
}
