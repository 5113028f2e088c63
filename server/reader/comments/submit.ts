/** Adds, changes and deletes comments of readers, within the comment rules. */
import { countLinks, commentHtml } from '../../../core/comments/render.ts'
import {
  judge,
  type CommentReason,
  type CommentSignals,
  type Judgement,
} from '../../../core/comments/judge.ts'
import { HONEYPOT, type RulesInForce } from '../../../core/comments/rules.ts'
import {
  REPLIES,
  readSubmission,
  wantsReplies,
  type CommentErrors,
  type CommentValues,
} from '../../../core/comments/submission.ts'
import { wordsOf } from '../../../core/comments/classifier.ts'
import type { Say } from '../../../core/messages/say.ts'
import type { CommentState } from '../../../core/shapes/content-kinds.ts'
import { success, unknown } from '../../../core/shapes/outcome.ts'
import type { ClockPort, CursorKeyPort, PoolPort, WritePort } from '../../publish/ports.ts'
import { subscribe, type Subscribed } from '../../store/content/mail.ts'
import { countRate, writerHistory } from '../../store/content/comments.ts'
import { CommentEntity } from '../../store/entities/content.ts'
import type { ScorePort } from './training.ts'
import { isOpen, type FormState } from './form.ts'
import type { Fields, OnStep } from './submission-step.ts'
import { readToken } from './token.ts'
import { avatarOf, clientHash, writerHash, type Visitor } from './visitor.ts'

export type CommentPorts = PoolPort & WritePort & ClockPort & CursorKeyPort & ScorePort

/** A form that was sent. */
export interface Submission {
  post: { id: number }
  fields: Fields
  rules: RulesInForce
  say: Say
  visitor: Visitor
  client: string | null
  onStep: OnStep
}

export type CommentResult =
  /** The page shows the comment; its writer sees it even if nobody else does. */
  | { outcome: 'done'; id: number; values?: CommentValues }
  | { outcome: 'deleted' }
  | { outcome: 'again'; status: 200 | 403 | 422 | 429; form: FormState; retryAfter?: number }
  | { outcome: 'no-post' }

type Refuse = (
  status: 403 | 422 | 429,
  errors: CommentErrors & { form?: string },
  more?: Partial<FormState> & { retryAfter?: number },
) => CommentResult

/** What is done with a form: the value of the button that was pressed. */
export async function submit(ports: CommentPorts, submission: Submission): Promise<CommentResult> {
  const { fields, rules, say, onStep } = submission
  const { values, errors } = readSubmission(fields, rules, say)
  onStep({ step: 'values', typed: fields, values, errors })
  const parent = idOf(fields['parent'])
  const again = {
    ...values,
    remember: fields['remember'] !== undefined,
    replies: fields[REPLIES] !== undefined,
  }
  const refuse: Refuse = (status, errors, { retryAfter, ...more } = {}) => ({
    outcome: 'again',
    status,
    form: { values: again, errors, parent, ...more },
    ...(retryAfter === undefined ? {} : { retryAfter }),
  })
  const found = await postOf(ports, submission)
  if (!found) return { outcome: 'no-post' }
  switch (fields['do']) {
    case 'edit':
    case 'save':
    case 'delete':
      return await change(ports, submission, { values, errors, refuse })
  }
  const open = isOpen(rules, found, ports.clock())
  onStep({ step: 'open', isOpen: open })
  if (!open) return refuse(403, { ...errors, form: say('comments-closed-text') })
  if (Object.keys(errors).length > 0) return refuse(422, errors)
  if (fields['do'] === 'preview')
    return {
      outcome: 'again',
      status: 200,
      form: {
        values: again,
        errors: {},
        parent,
        preview: commentHtml(values.text),
      },
    }
  return await add(ports, submission, { values, parent, refuse })
}

const idOf = (text: string | undefined): number | null =>
  /^[1-9][0-9]{0,8}$/.test(text ?? '') ? Number(text) : null

async function postOf({ pool }: CommentPorts, { post }: Submission) {
  const { rows } = await pool.query<{
    commentsOpen: boolean
    publishedAt: Date | null
    author: string | null
  }>({
    name: 'comment post',
    text: `SELECT comments_open AS "commentsOpen", published_at AS "publishedAt" FROM post WHERE id = $1`,
    values: [post.id],
  })
  return rows[0]
}

async function add(
  ports: CommentPorts,
  submission: Submission,
  { values, parent, refuse }: { values: CommentValues; parent: number | null; refuse: Refuse },
): Promise<CommentResult> {
  const { post, fields, rules, say, visitor, client, onStep } = submission
  const owner = { writer: visitor.writer, client }
  const token = readToken(ports, fields['token'] ?? '', owner, ports.clock())
  onStep({ step: 'token', open: token?.open ?? null })
  if (!token) return refuse(422, { form: say('comment-form-unknown') })
  const { text, email, site } = values
  const name = values.name || say('comment-anonymous')
  const before = await sentBefore(ports, token.id)
  onStep({ step: 'sent-before', comment: before?.id ?? null })
  const repeated = (known: SentComment): CommentResult =>
    known.postId === post.id && known.text === text
      ? { outcome: 'done', id: known.id, values }
      : refuse(422, { form: say('comment-form-used') })
  if (before) return repeated(before)
  const limited = await overRate(ports, submission)
  if (limited) return refuse(429, { form: limited.error }, { retryAfter: limited.retryAfter })
  const above = parent === null ? null : await parentOf(ports, post.id, parent, rules.depth)
  if (parent !== null) onStep({ step: 'parent', asked: parent, placed: above })
  if (above === undefined) return refuse(422, { form: say('comment-parent-unknown') }, { parent: null })

  const subscribes = wantsReplies(fields, rules) && email !== ''
  const { state, reasons, score } = await judged(ports, submission, {
    name,
    text,
    site,
    isHoneypotFilled: (fields[HONEYPOT] ?? '') !== '',
    filledIn: token.open,
  })
  const row = {
    postId: post.id,
    parentId: above,
    name,
    email,
    site,
    text,
    state,
    reasons,
    score,
    filledIn: Math.min(token.open, 2_000_000_000),
    writer: writerHash(ports, visitor.writer),
    client: clientHash(ports, client),
    avatar: avatarOf(ports, { name, email }),
    once: token.id,
    createdAt: ports.clock(),
  }
  // Nobody gets mail because of what is probably spam.
  const id = await insert(ports, row, { subscribes: subscribes && state !== 'spam', onStep })
  if (id === 'unconfirmed') return refuse(422, { email: say('comment-email-unconfirmed') })
  if (id === 'no-post') return { outcome: 'no-post' }
  if (id === 'no-parent') return refuse(422, { form: say('comment-parent-unknown') }, { parent: null })
  if (id !== undefined) return { outcome: 'done', id, values }
  // The same form was sent twice at the same time, and the other one was faster.
  const other = await sentBefore(ports, token.id)
  return other ? repeated(other) : refuse(422, { form: say('comment-form-unknown') })
}

/** Decides what becomes of a comment, from what is known of it and of its writer. */
async function judged(
  ports: CommentPorts,
  { rules, visitor, onStep }: Submission,
  comment: Pick<CommentSignals, 'name' | 'site' | 'text' | 'isHoneypotFilled' | 'filledIn'>,
): Promise<Judgement & { score: number | null }> {
  const { text } = comment
  const history = await writerHistory(ports.pool, { writer: writerHash(ports, visitor.writer), text })
  onStep({ step: 'history', ...history })
  const words = wordsOf(comment)
  const score = ports.spamScore(words)
  onStep({ step: 'score', score, words })
  const judgement = judge({ ...comment, ...history, links: countLinks(text), score }, rules)
  onStep({ step: 'decision', ...judgement })
  return { ...judgement, score }
}

/** The code for a comment that is not kept because its address may not be asked again. */
const UNCONFIRMED = 'unconfirmed'

type NewComment = Pick<
  CommentEntity,
  'postId' | 'parentId' | 'name' | 'email' | 'site' | 'text' | 'state' | 'reasons' | 'score' | 'filledIn'
> &
  Pick<CommentEntity, 'writer' | 'client' | 'avatar' | 'once' | 'createdAt'>

/** Inserts a comment. @returns its id; undefined if the form has already added one */
async function insert(
  { store }: CommentPorts,
  row: NewComment,
  { subscribes, onStep }: { subscribes: boolean; onStep: OnStep },
): Promise<number | undefined | 'no-post' | 'no-parent' | 'unconfirmed'> {
  let subscribed: Subscribed | undefined
  const written = await store.write(
    async (unit) => {
      subscribed = undefined
      const inserted = await unit.manager
        .createQueryBuilder()
        .insert()
        .into(CommentEntity)
        .values(row)
        .orIgnore()
        .returning('id')
        .execute()
      const id = (inserted.raw as { id: number }[])[0]?.id
      if (id === undefined || !subscribes) return success(id)
      const { email, writer } = row
      subscribed = await subscribe(unit.manager, { comment: id, email, writer: writer ?? '' })
      return subscribed === 'too-many'
        ? unknown({ file: 'comments', code: UNCONFIRMED, message: 'The address is not confirmed.' })
        : success(id)
    },
    // The post, or the comment above, was deleted a moment ago.
    (constraint) => unknown({ file: 'comments', code: constraint, message: 'It is no longer there.' }),
  )
  if (written.ok) onStep({ step: 'written', comment: written.value ?? null, dropped: written.purged })
  if (subscribed !== undefined) onStep({ step: 'replies', subscribed })
  if (written.ok) return written.value
  const code = written.problems[0]?.code
  return code === UNCONFIRMED ? 'unconfirmed' : code === 'comment_post_fk' ? 'no-post' : 'no-parent'
}

interface SentComment {
  id: number
  postId: number
  text: string
}

async function sentBefore({ pool }: CommentPorts, once: string): Promise<SentComment | undefined> {
  const { rows } = await pool.query<SentComment>({
    name: 'comment sent before',
    text: 'SELECT id, post_id AS "postId", text FROM comment WHERE once = $1',
    values: [once],
  })
  return rows[0]
}

/** Counts the attempt. @returns why it is refused, if there are too many */
async function overRate(
  ports: CommentPorts,
  { post, rules: { rate }, say, client, visitor, onStep }: Submission,
): Promise<{ error: string; retryAfter: number } | undefined> {
  if (rate.within === 0) return undefined
  const limits = [
    [
      'address',
      `client ${clientHash(ports, client) ?? writerHash(ports, visitor.writer)}`,
      rate.perAddress,
      'comment-too-many',
    ],
    ['post', `post ${post.id}`, rate.perPost, 'comment-too-many-on-post'],
  ] as const
  for (const [per, key, most, error] of limits) {
    const { count, secondsLeft } = await countRate(ports.pool, key, rate.within)
    onStep({ step: 'rate', per, count, allowed: most, within: rate.within })
    if (count > most)
      return { error: say(error, { minutes: Math.ceil(secondsLeft / 60) }), retryAfter: secondsLeft }
  }
  return undefined
}

/**
 * Returns the comment under which a reply is placed: the one that it replies to, or one above it where replies would be
 * deeper than the rules allow; undefined if it is not shown.
 */
async function parentOf(
  { pool }: CommentPorts,
  post: number,
  parent: number,
  depth: number,
): Promise<number | null | undefined> {
  const { rows } = await pool.query<{ id: number; depth: number }>({
    name: 'comment parents',
    text: `WITH RECURSIVE above AS (
        SELECT id, parent_id, depth FROM comment WHERE id = $2 AND post_id = $1 AND state = 'shown' AND parents_shown
        UNION ALL SELECT up.id, up.parent_id, up.depth FROM comment up JOIN above ON up.id = above.parent_id)
      SELECT id, depth FROM above ORDER BY depth DESC`,
    values: [post, parent],
  })
  if (rows.length === 0) return undefined
  return rows.find((one) => one.depth < depth)?.id ?? null
}

/** Changes or deletes a comment of the same browser, as long as the rules allow it. */
async function change(
  ports: CommentPorts,
  submission: Submission,
  { values, errors, refuse }: { values: CommentValues; errors: CommentErrors; refuse: Refuse },
): Promise<CommentResult> {
  const { post, fields, say, visitor, client, rules, onStep } = submission
  const id = idOf(fields['comment'])
  const since = new Date(ports.clock().getTime() - rules.editableFor)
  const own = id === null || visitor.isNew ? undefined : await ownComment(ports, post.id, id, visitor, since)
  onStep({ step: 'own', comment: own?.id ?? null })
  if (!own) return refuse(422, { form: say('comment-not-editable') })
  const editing = { editing: own.id, parent: own.parentId }
  if (fields['do'] === 'edit')
    return {
      outcome: 'again',
      status: 200,
      form: {
        values: { name: own.name, email: own.email, site: own.site, text: own.text },
        errors: {},
        ...editing,
      },
    }
  const token = readToken(ports, fields['token'] ?? '', { writer: visitor.writer, client }, ports.clock())
  onStep({ step: 'token', open: token?.open ?? null })
  if (!token) return refuse(422, { form: say('comment-form-unknown') }, editing)
  if (fields['do'] === 'delete') {
    await update(ports, own.id, { state: 'deleted' }, onStep)
    return { outcome: 'deleted' }
  }
  // Only the text can be changed.
  if (errors.text !== undefined) return refuse(422, { text: errors.text }, editing)
  if (values.text === own.text) return { outcome: 'done', id: own.id }
  const limited = await overRate(ports, submission)
  if (limited) return refuse(429, { form: limited.error }, { ...editing, retryAfter: limited.retryAfter })
  // What the comment has become is judged as if it were new. It is not shown sooner because of a change.
  const { state, reasons, score } = await judged(ports, submission, {
    name: own.name,
    site: own.site,
    text: values.text,
    isHoneypotFilled: false,
    filledIn: null,
  })
  const becomes =
    own.state === 'shown' && state === 'shown' ? {} : { state: worse(own.state, state), reasons }
  await update(ports, own.id, { text: values.text, score, ...becomes }, onStep)
  return { outcome: 'done', id: own.id }
}

const worse = (was: CommentState, now: CommentState): CommentState =>
  was === 'shown' ? now : was === 'spam' ? was : now === 'spam' ? now : was

async function ownComment(
  { store, cursorKey }: CommentPorts,
  postId: number,
  id: number,
  visitor: Visitor,
  since: Date,
): Promise<CommentEntity | undefined> {
  const found = await store.manager
    .getRepository(CommentEntity)
    .findOneBy({ id, postId, writer: writerHash({ cursorKey }, visitor.writer) })
  return found && found.state !== 'deleted' && found.createdAt > since ? found : undefined
}

async function update(
  { store }: CommentPorts,
  id: number,
  values: { text?: string; state?: CommentState; reasons?: CommentReason[]; score?: number | null },
  onStep: OnStep,
): Promise<void> {
  const written = await store.write(async ({ manager }) => {
    await manager
      .createQueryBuilder()
      .update(CommentEntity)
      .set({ ...values, version: () => 'version + 1' })
      .where({ id })
      .execute()
    return success(null)
  })
  if (!written.ok) throw new Error(written.problems[0]?.message)
  onStep({ step: 'written', comment: id, dropped: written.purged })
}
