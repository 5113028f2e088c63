/** Handlers of the Comments area. */
import { isIP } from 'node:net'
import { LessThanOrEqual } from 'typeorm'
import { withCommentRules } from '../../../core/comments/edit-rules.ts'
import { commentRules } from '../../../core/comments/rules.ts'
import type { BodyOf } from '../../../contract/operations.ts'
import { saveDocuments } from '../../author/documents/documents.ts'
import { importComments, readCommentFile } from '../../author/comments/comment-files.ts'
import { formAddress } from '../../reader/addresses/form-address.ts'
import { wordsOf } from '../../../core/comments/classifier.ts'
import type { CommentDetail, commentOperations } from '../../../contract/comments.ts'
import { success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import {
  editComment,
  eraseWriter,
  replyAsAuthor,
  setState,
  type CommentRef,
} from '../../author/comments/moderate.ts'
import { ROW_PROBLEMS } from '../../author/problems.ts'
import { write } from '../../author/writing.ts'
import { rehearse } from '../../probes/rehearse.ts'
import { addressFor } from '../../reader/addresses/slug-address.ts'
import { answer } from '../../reader/answer.ts'
import type { Blog } from '../../reader/blog.ts'
import { COMMENT_PARAMETER } from '../../reader/comments/permalinks.ts'
import { clientHash } from '../../reader/comments/visitor.ts'
import { refusedForm, internalRequest } from '../../reader/request.ts'
import { chainOf, countComments, countOfWriter, listComments } from '../../store/content/moderation.ts'
import { CommentEntity, PostEntity } from '../../store/entities/content.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import { outsideHandlers, type ServiceKeys } from './outside-handlers.ts'
import { withPurged, type HandlersOf } from '../http/handlers-of.ts'

/** The characters of a text that the list shows. */
const START = 300
/** Comments of one answer, unless more are requested. */
const LIST = 50

const SETTINGS = 'blog.yaml'

const commentUnknown = (id: number) =>
  unknown({ file: 'comments', ...ROW_PROBLEMS['row-unknown']('comment', String(id)) })

export const commentHandlers = (blog: Blog, keys: ServiceKeys): HandlersOf<typeof commentOperations> => ({
  ...outsideHandlers(blog, keys),
  'GET /api/comments': async ({ query: { state, search, post, writer, before, size } }) => {
    const { manager } = blog.database
    const limit = Number(size ?? LIST)
    await blog.training.ready()
    const client = isIP(search?.trim() ?? '') > 0 ? clientHash(blog, search?.trim() ?? null) : null
    const filter = { search, client, post, writer: writer === undefined ? undefined : Number(writer) }
    const [found, counts] = await Promise.all([
      listComments(
        manager,
        { ...filter, state },
        { before: before === undefined ? undefined : Number(before), limit: limit + 1 },
      ),
      countComments(manager, filter),
    ])
    return success({
      comments: found.slice(0, limit).map(({ slug, title, at, text, site, ...one }) => ({
        ...one,
        text: text.slice(0, START),
        // Comments that were not sent through the form have none.
        score: one.byAuthor
          ? null
          : (one.score ?? blog.training.score(wordsOf({ name: one.name, site, text }))),
        at: at.toISOString(),
        post: { slug, title },
      })),
      counts,
      isMore: found.length > limit,
    })
  },
  'GET /api/comments/waiting': async () => {
    const comments = blog.database.getRepository(CommentEntity)
    const [waiting, [newest]] = await Promise.all([
      comments.countBy({ state: 'waiting' }),
      comments.find({ select: { id: true }, order: { id: 'DESC' }, take: 1 }),
    ])
    return success({ waiting, newest: newest?.id ?? 0 })
  },
  'GET /api/comment': ({ query }) => readComment(blog, Number(query.id)),
  'GET /api/comment/page': ({ query }) => pageWith(blog, Number(query.id)),
  'POST /api/comments/moderate': async ({ body: { comments, state } }) =>
    done(await write(blog, (writing) => setState(writing, comments as CommentRef[], state))),
  'POST /api/comments/reply': async ({ body: { comment, text } }) => {
    const written = await write(blog, (writing) => replyAsAuthor(writing, blog, comment, text))
    return written.ok
      ? success({ id: written.value.id, step: written.step, purged: written.purged })
      : written
  },
  'PUT /api/comment': async ({ body: { id, version, name, text } }) => {
    const written = await write(blog, (writing) => editComment(writing, { id, version }, { name, text }))
    return written.ok
      ? success({ version: written.value.version, step: written.step, purged: written.purged })
      : written
  },
  'POST /api/comments/import': async ({ body: { format, text } }) => {
    const read = readCommentFile(format, text)
    if (!read.ok) return read
    const written = await write(blog, (writing) => importComments(writing, blog, read.value))
    return written.ok ? success({ ...written.value, step: written.step, purged: written.purged }) : written
  },
  'GET /api/comments/rules': async () => {
    const stored = await blog.database.getRepository(DocumentEntity).findOneBy({ path: SETTINGS })
    const { settings, routes } = blog.site.definition
    return success({
      version: stored?.version ?? 1,
      rules: settings.comments ?? {},
      routes: routes.flatMap(({ route }) => (route.comments ? [route.name] : [])),
    })
  },
  'PUT /api/comments/rules': async ({ body: { version, rules, insist } }) => {
    const stored = await blog.database.getRepository(DocumentEntity).findOneBy({ path: SETTINGS })
    const text = withCommentRules(stored?.text ?? '', rules)
    if (text === undefined)
      return unknown({ file: SETTINGS, ...ROW_PROBLEMS['row-unknown']('document', SETTINGS) })
    const written = await write(blog, (writing) =>
      saveDocuments(writing, [{ path: SETTINGS, text, version }], blog.publishing(insist)),
    )
    return written.ok
      ? success({
          version: written.value.versions[SETTINGS] ?? version,
          step: written.step,
          purged: written.purged,
        })
      : written
  },
  'POST /api/comments/rules/preview': ({ body }) => previewRules(blog, body),
  'POST /api/comments/erase': async ({ body: { comment } }) =>
    withPurged(await write(blog, (writing) => eraseWriter(writing, comment))),
})

const done = (written: Awaited<ReturnType<typeof write<{ changed: number }>>>) =>
  written.ok ? success({ step: written.step, purged: written.purged }) : written

async function readComment(blog: Blog, id: number): Promise<Outcome<CommentDetail>> {
  const { manager } = blog.database
  await blog.training.ready()
  const row = await manager.findOne(CommentEntity, {
    where: { id },
    relations: { post: { author: true }, parent: true },
  })
  if (!row) return commentUnknown(id)
  const { name, email, site, text, post, parent } = row
  const [writer, words] = await Promise.all([
    countOfWriter(manager, id),
    blog.training.strongest({ name, site, text }),
  ])
  return success({
    id,
    version: row.version,
    state: row.state,
    stateAt: row.stateAt.toISOString(),
    name,
    email,
    site,
    text,
    at: row.createdAt.toISOString(),
    editedAt: row.editedAt?.toISOString() ?? null,
    edits: row.edits,
    byAuthor: row.byAuthor,
    isHidden: !row.parentsShown,
    reasons: row.reasons,
    score: row.byAuthor ? null : (row.score ?? blog.training.score(wordsOf({ name, site, text }))),
    filledIn: row.filledIn,
    words: { decisions: words.decisions, weights: words.words },
    post: { slug: post.slug, title: post.title, author: post.author?.name ?? null },
    replyTo: parent && { id: parent.id, name: parent.name, state: parent.state },
    writer: {
      ...writer,
      known: row.writer !== null ? 'browser' : email !== '' ? 'email' : 'nothing',
    },
  })
}

/** Shows the form of the newest open post with other rules. Nothing is built: only the rules are exchanged. */
async function previewRules(blog: Blog, { rules, isSent }: BodyOf<'POST /api/comments/rules/preview'>) {
  const { definition } = blog.site
  const action = definition.routes.find(({ route }) => route.action === 'add-comment')
  const sent = action && (await formAddress(blog, blog.site, action))
  const [post] = await blog.database.getRepository(PostEntity).find({
    where: { commentsOpen: true, publishedAt: LessThanOrEqual(blog.clock()) },
    order: { publishedAt: 'DESC' },
    take: 1,
  })
  const path = post && addressFor(blog, 'post', post.slug)?.path
  if (path === undefined || sent === undefined)
    return success({ status: 404, path: null, html: '', policy: null })
  const site = {
    ...blog.site,
    definition: {
      ...definition,
      settings: { ...definition.settings, comments: rules },
      comments: commentRules(rules),
    },
  }
  const changed = blog.withoutFragments({ site })
  const { status, body, headers } = await answer(changed, isSent ? refusedForm(sent) : internalRequest(path))
  return success({ status, path, html: body, policy: headers['content-security-policy'] ?? null })
}

/** Shows the comment in its thread: it is shown in a transaction that is rolled back, and the page is requested. */
async function pageWith(blog: Blog, id: number) {
  const row = await blog.database
    .getRepository(CommentEntity)
    .findOne({ where: { id }, relations: { post: true } })
  if (!row) return commentUnknown(id)
  const path = addressFor(blog, 'post', row.post.slug)?.path
  if (path === undefined) return success({ status: 404, path: null, html: '', policy: null })
  return await rehearse(
    blog,
    async ({ manager }) => {
      await manager.update(CommentEntity, await chainOf(manager, id), { state: 'shown' })
      return success(null)
    },
    async (changed) => {
      const ask = (target: string) => answer(changed, internalRequest(target, { as: 'author' }))
      const first = await ask(`${path}?${COMMENT_PARAMETER}=${id}`)
      const location = first.status === 302 ? first.headers['location'] : undefined
      const { status, body, headers } = location === undefined ? first : await ask(location)
      return { status, path, html: body, policy: headers['content-security-policy'] ?? null }
    },
  )
}
