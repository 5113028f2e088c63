/** Handlers for e-mail about comments. */
import { IsNull, Not } from 'typeorm'
import type { mailOperations, MailItem } from '../../../contract/mail.ts'
import { success, unknown } from '../../../core/shapes/outcome.ts'
import { ROW_PROBLEMS } from '../../author/problems.ts'
import type { Mailer } from '../../mail/mailer.ts'
import type { DatabasePort } from '../../publish/ports.ts'
import { findKept } from '../../standins/mail/outbox.ts'
import { retryMail } from '../../store/content/mail.ts'
import { CommentSubscriptionEntity, MailEntity, MAIL_STATES } from '../../store/entities/mail.ts'
import type { HandlersOf } from '../http/handlers-of.ts'

/** The maximum number of e-mails of one answer. */
const LIST = 200

export const mailHandlers = (
  { database }: DatabasePort,
  mailer: Mailer,
): HandlersOf<typeof mailOperations> => ({
  'GET /api/comments/emails': async ({ query: { state, search = '' } }) => {
    const emails = database.getRepository(MailEntity)
    const listed = emails
      .createQueryBuilder('mail')
      .orderBy('mail.id', 'DESC')
      .take(LIST + 1)
    if (state !== undefined) listed.andWhere('mail.state = :state', { state })
    if (search.trim() !== '')
      listed.andWhere(
        '(strpos(lower(mail.recipient), :search) > 0 OR strpos(lower(mail.subject), :search) > 0)',
        {
          search: search.trim().toLowerCase(),
        },
      )
    const [found, subscribers, ...counts] = await Promise.all([
      listed.getMany(),
      database
        .getRepository(CommentSubscriptionEntity)
        .countBy({ confirmedAt: Not(IsNull()), endedAt: IsNull() }),
      ...MAIL_STATES.map((one) => emails.countBy({ state: one })),
    ])
    const [waiting = 0, sent = 0, failed = 0, dropped = 0] = counts
    return success({
      target: mailer.target,
      isStandIn: mailer.outbox !== null,
      from: mailer.sender.address,
      emails: found.slice(0, LIST).map(itemOf),
      counts: { waiting, sent, failed, dropped },
      isMore: found.length > LIST,
      subscribers,
    })
  },
  'GET /api/comments/email': async ({ query }) => {
    const mail = await database.getRepository(MailEntity).findOneBy({ id: Number(query.id) })
    if (!mail) return unknown({ file: 'comments', ...ROW_PROBLEMS['row-unknown']('e-mail', query.id) })
    const kept =
      mailer.outbox === null || mail.state !== 'sent'
        ? undefined
        : await findKept(mailer.outbox, mailer.messageId(mail.id))
    return success({ mail: itemOf(mail), message: kept ? { text: kept.text, headers: kept.headers } : null })
  },
  'POST /api/comments/emails/retry': async ({ body }) => {
    const retried = await retryMail(database.manager, body.emails)
    if (retried > 0) mailer.soon()
    return success({ retried })
  },
})

const itemOf = (mail: MailEntity): MailItem => ({
  id: mail.id,
  kind: mail.kind,
  state: mail.state,
  to: mail.recipient,
  subject: mail.subject,
  at: mail.createdAt.toISOString(),
  done: mail.doneAt?.toISOString() ?? null,
  tries: mail.tries,
  next: mail.state === 'waiting' ? mail.nextAt.toISOString() : null,
  problem: mail.problem,
  comment: mail.commentId,
})
