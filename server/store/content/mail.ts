/** Statements for e-mails: queueing and claiming them, their outcome, and subscriptions. */
import type { EntityManager } from 'typeorm'
import { CommentSubscriptionEntity, MailEntity, type MAIL_STATES } from '../entities/mail.ts'

/** The minimum time between two e-mails to the author, in minutes. Each covers all comments since the previous one. */
const AUTHOR_PAUSE = 10
/** The delay before each retry, in minutes. */
const PAUSES = [1, 5, 30, 120, 480]
/** How long a process may take for an e-mail, in minutes, before another process claims it. */
const CLAIM = 5

/**
 * Queues an e-mail to the author if there are new comments and the previous e-mail is old enough. Processes take turns, so
 * that one e-mail covers all of them.
 * @param about states of comments that the author is notified of
 * @param recipient null if there are no notifications
 */
export async function beginAuthorMail(
  manager: EntityManager,
  { about, recipient }: { about: readonly string[]; recipient: string | null },
): Promise<void> {
  const [known] = await manager.query<{ isNew: boolean }[]>(
    'SELECT EXISTS (SELECT FROM comment_notice WHERE mail_id IS NULL) AS "isNew"',
  )
  if (known?.isNew !== true) return
  await manager.transaction(async (inside) => {
    await inside.query("SELECT pg_advisory_xact_lock(hashtext('mail to the author'))")
    // Comments that were moderated meanwhile, or that the rules leave out, need no notification.
    await inside.query(
      `DELETE FROM comment_notice notice WHERE mail_id IS NULL AND ($2::text IS NULL OR NOT EXISTS (
         SELECT FROM comment WHERE comment.id = notice.comment_id AND state = ANY ($1)))`,
      [about, recipient],
    )
    await inside.query(
      `WITH fresh AS (
         INSERT INTO mail (kind, recipient) SELECT 'author', $1 WHERE EXISTS (SELECT FROM comment_notice WHERE mail_id IS NULL)
           AND NOT EXISTS (SELECT FROM mail WHERE kind = 'author' AND state <> 'dropped' AND created_at > now() - make_interval(mins => ${AUTHOR_PAUSE}))
         RETURNING id)
       UPDATE comment_notice SET mail_id = fresh.id FROM fresh WHERE mail_id IS NULL`,
      [recipient],
    )
  })
}

/** Claims the e-mail that is due next for this process; returns undefined if there is none. */
export async function takeDueMail(manager: EntityManager): Promise<MailEntity | undefined> {
  const [rows] = await manager.query<[{ id: number }[], number]>(
    `UPDATE mail SET tries = tries + 1, next_at = now() + make_interval(mins => ${CLAIM})
     WHERE id = (SELECT id FROM mail WHERE state = 'waiting' AND next_at <= now() ORDER BY next_at, id LIMIT 1 FOR UPDATE SKIP LOCKED)
     RETURNING id`,
  )
  const [taken] = rows
  return taken && ((await manager.findOneBy(MailEntity, { id: taken.id })) ?? undefined)
}

/** Records the outcome of an attempt. `again`: it is retried later, unless this was the last attempt. */
export async function finishMail(
  manager: EntityManager,
  { id, tries }: Pick<MailEntity, 'id' | 'tries'>,
  outcome:
    | { state: 'sent'; subject: string }
    | { state: 'dropped' | 'failed' | 'again'; subject?: string; problem: string },
): Promise<void> {
  const pause = outcome.state === 'again' ? PAUSES[tries - 1] : undefined
  const state: (typeof MAIL_STATES)[number] =
    outcome.state === 'again' ? (pause === undefined ? 'failed' : 'waiting') : outcome.state
  const changes = {
    state,
    ...(outcome.subject === undefined ? {} : { subject: outcome.subject }),
    problem: 'problem' in outcome ? outcome.problem.slice(0, 500) : null,
    ...(pause === undefined
      ? { doneAt: () => 'now()' }
      : { nextAt: () => `now() + make_interval(mins => ${pause})` }),
  }
  await manager.createQueryBuilder().update(MailEntity).set(changes).where({ id }).execute()
}

/** Queues failed e-mails again. @returns the number of them */
export async function retryMail(manager: EntityManager, ids: readonly number[]): Promise<number> {
  const { affected } = await manager
    .createQueryBuilder()
    .update(MailEntity)
    .set({ state: 'waiting', tries: 0, nextAt: () => 'now()', problem: null, doneAt: null })
    .whereInIds([...ids])
    .andWhere("state = 'failed'")
    .execute()
  return affected ?? 0
}

/** A comment as an e-mail quotes it. */
export interface CommentForMail {
  id: number
  name: string
  text: string
  state: string
  isVisible: boolean
  slug: string
  title: string
}

const COMMENT = `SELECT c.id, c.name, c.text, c.state, c.state = 'shown' AND c.parents_shown AND p.published_at <= now() AS "isVisible", p.slug, p.title
  FROM comment c JOIN post p ON p.id = c.post_id`

export async function commentForMail(
  manager: EntityManager,
  id: number,
): Promise<CommentForMail | undefined> {
  const [found] = await manager.query<CommentForMail[]>(`${COMMENT} WHERE c.id = $1`, [id])
  return found
}

/** Returns the comments that an e-mail to the author covers, oldest first, and the number of all waiting comments. */
export async function commentsOfMail(
  manager: EntityManager,
  mail: number,
  { about, limit }: { about: readonly string[]; limit: number },
): Promise<{ comments: CommentForMail[]; total: number; waiting: number }> {
  const covered = 'c.id IN (SELECT comment_id FROM comment_notice WHERE mail_id = $1) AND c.state = ANY ($2)'
  const [comments, counts] = await Promise.all([
    manager.query<CommentForMail[]>(`${COMMENT} WHERE ${covered} ORDER BY c.id LIMIT ${limit}`, [
      mail,
      about,
    ]),
    manager.query<{ total: number; waiting: number }[]>(
      `SELECT (SELECT count(*)::int FROM comment c WHERE ${covered}) AS total,
         (SELECT count(*)::int FROM comment WHERE state = 'waiting') AS waiting`,
      [mail, about],
    ),
  ])
  return { comments, ...(counts[0] ?? { total: 0, waiting: 0 }) }
}

/** The maximum number of unanswered confirmation e-mails to an address within a month. */
const UNCONFIRMED = 3

export type Subscribed = 'confirmed' | 'asked' | 'too-many'

/**
 * Subscribes a writer to the replies to their comment. E-mails about replies are sent once the address is confirmed; the
 * same browser confirms an address only once.
 * @returns `too-many`: the address has not answered several times, and nothing was stored
 */
export async function subscribe(
  manager: EntityManager,
  { comment, email, writer }: { comment: number; email: string; writer: string },
): Promise<Subscribed> {
  // Requests for one address take turns, so that several at once cannot exceed the limit.
  await manager.query("SELECT pg_advisory_xact_lock(hashtext('confirmation of ' || lower($1)))", [email])
  const [known] = await manager.query<{ confirmed: boolean; unanswered: number }[]>(
    `SELECT bool_or(writer = $2 AND confirmed_at IS NOT NULL AND ended_at IS NULL) IS TRUE AS confirmed,
       count(*) FILTER (WHERE confirmed_at IS NULL AND asked_at > now() - interval '30 days')::int AS unanswered
     FROM comment_subscription WHERE lower(email) = lower($1)`,
    [email, writer],
  )
  const isConfirmed = known?.confirmed === true
  if (!isConfirmed && (known?.unanswered ?? 0) >= UNCONFIRMED) return 'too-many'
  const { identifiers } = await manager.insert(CommentSubscriptionEntity, {
    commentId: comment,
    email,
    writer,
    confirmedAt: isConfirmed ? () => 'now()' : null,
  })
  if (isConfirmed) return 'confirmed'
  await manager.insert(MailEntity, {
    kind: 'confirm',
    commentId: comment,
    subscriptionId: (identifiers[0] as { id: number }).id,
    recipient: email,
  })
  return 'asked'
}

/** A subscription with the title of its post. */
export type SubscriptionForPage = Pick<
  CommentSubscriptionEntity,
  'id' | 'email' | 'confirmedAt' | 'endedAt'
> & {
  title: string
}

/** @returns undefined if the subscription, or its comment, is gone */
export async function subscriptionForPage(
  manager: EntityManager,
  id: number,
): Promise<SubscriptionForPage | undefined> {
  const [found] = await manager.query<SubscriptionForPage[]>(
    `SELECT s.id, s.email, s.confirmed_at AS "confirmedAt", s.ended_at AS "endedAt", p.title
     FROM comment_subscription s JOIN comment c ON c.id = s.comment_id JOIN post p ON p.id = c.post_id WHERE s.id = $1`,
    [id],
  )
  return found
}

/** Confirms a subscription, cancels it, or cancels all subscriptions of its address. Queued e-mails are then dropped. */
export async function answerSubscription(
  manager: EntityManager,
  id: number,
  does: 'confirm' | 'stop' | 'stop-all',
): Promise<void> {
  const which =
    does === 'stop-all'
      ? 'lower(email) = (SELECT lower(email) FROM comment_subscription WHERE id = $1)'
      : 'id = $1'
  const what =
    does === 'confirm'
      ? 'confirmed_at = CASE WHEN ended_at IS NULL THEN coalesce(confirmed_at, now()) ELSE now() END, ended_at = NULL'
      : 'ended_at = coalesce(ended_at, now())'
  await manager.query(`UPDATE comment_subscription SET ${what} WHERE ${which}`, [id])
}

/** Erases the subscriptions and e-mails of some comments, or of an address. */
export async function forgetSubscribers(
  manager: EntityManager,
  { ids, email }: { ids: readonly number[]; email: string },
): Promise<void> {
  const [gone] = await manager.query<[{ id: number }[], number]>(
    "DELETE FROM comment_subscription WHERE comment_id = ANY ($1) OR ($2 <> '' AND lower(email) = $2) RETURNING id",
    [ids, email],
  )
  await manager.query(
    "DELETE FROM mail WHERE subscription_id = ANY ($1) OR comment_id = ANY ($2) OR ($3 <> '' AND lower(recipient) = $3)",
    [gone.map((one) => one.id), ids, email],
  )
}

/** Deletes e-mails after 60 days, and notices and subscriptions whose comments are gone, or that were never confirmed. */
export async function forgetOldMail(manager: EntityManager): Promise<void> {
  await manager.query("DELETE FROM mail WHERE created_at < now() - interval '60 days'")
  await manager.query(
    'DELETE FROM comment_notice n WHERE NOT EXISTS (SELECT FROM comment WHERE comment.id = n.comment_id)',
  )
  await manager.query(
    `DELETE FROM comment_subscription s WHERE (confirmed_at IS NULL AND asked_at < now() - interval '30 days')
       OR (asked_at < now() - interval '30 days' AND NOT EXISTS (SELECT FROM comment WHERE comment.id = s.comment_id))`,
  )
}
