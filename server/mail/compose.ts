/** Composes e-mails at the moment when they are sent, so that nothing is sent about comments that were deleted meanwhile. */
import type { EntityManager } from 'typeorm'
import {
  authorMail,
  confirmMail,
  MAILED_COMMENTS,
  replyMail,
  type MailText,
  type MailWords,
} from '../../core/comments/mail.ts'
import type { RulesInForce } from '../../core/comments/rules.ts'
import type { CursorKeyPort, OriginsPort, SitePort } from '../publish/ports.ts'
import { addressFor } from '../reader/addresses/slug-address.ts'
import { publicOrigin, subscriptionPath } from '../reader/comments/mail-links.ts'
import { COMMENT_PARAMETER } from '../reader/comments/permalinks.ts'
import {
  commentForMail,
  commentsOfMail,
  subscriptionForPage,
  type CommentForMail,
} from '../store/content/mail.ts'
import type { MailEntity } from '../store/entities/mail.ts'

export type Composed =
  | ({ outcome: 'composed'; thread?: string; stop?: string } & MailText)
  | { outcome: 'dropped'; problem: string }

export type ComposePorts = SitePort & OriginsPort & CursorKeyPort & { readonly manager: EntityManager }

/** Returns the states of the comments that the author is notified of. */
export const notifiedStates = ({ about }: RulesInForce['notify']): string[] =>
  ({ waiting: ['waiting'], all: ['waiting', 'shown'], none: [] })[about]

/** @param workbench the origin of the workbench */
export async function compose(ports: ComposePorts, mail: MailEntity, workbench: string): Promise<Composed> {
  const { say, settings } = ports.site.definition
  const words: MailWords = { say, blog: settings.title }
  switch (mail.kind) {
    case 'author':
      return await toAuthor(ports, words, { mail, workbench })
    case 'reply':
      return await toSubscriber(ports, words, mail)
    case 'confirm':
      return await toConfirm(ports, words, mail)
  }
}

const dropped = (problem: string): Composed => ({ outcome: 'dropped', problem })

async function toAuthor(
  ports: ComposePorts,
  words: MailWords,
  { mail, workbench }: { mail: MailEntity; workbench: string },
): Promise<Composed> {
  const about = notifiedStates(ports.site.definition.comments.notify)
  const { comments, total, waiting } = await commentsOfMail(ports.manager, mail.id, {
    about,
    limit: MAILED_COMMENTS,
  })
  if (total === 0) return dropped('The comments were moderated before the e-mail was sent.')
  return {
    outcome: 'composed',
    ...authorMail(words, {
      comments: comments.map((one) => ({
        ...one,
        address: `${workbench}/comments?state=${one.state}&comment=${one.id}`,
      })),
      total,
      waiting,
      queue: `${workbench}/comments`,
    }),
  }
}

async function toSubscriber(ports: ComposePorts, words: MailWords, mail: MailEntity): Promise<Composed> {
  const [subscription, reply] = await Promise.all([
    subscriptionForPage(ports.manager, mail.subscriptionId ?? 0),
    commentForMail(ports.manager, mail.commentId ?? 0),
  ])
  if (!subscription?.confirmedAt || subscription.endedAt) return dropped('The reader has unsubscribed.')
  if (reply?.isVisible !== true) return dropped('The reply is no longer shown.')
  const address = permalink(ports, reply)
  if (address === undefined) return dropped('No route shows the post.')
  const stop = publicOrigin(ports) + subscriptionPath(ports, subscription.id)
  return {
    outcome: 'composed',
    ...replyMail(words, { reply: { ...reply, address }, stop }),
    thread: String(subscription.id),
    stop,
  }
}

async function toConfirm(ports: ComposePorts, words: MailWords, mail: MailEntity): Promise<Composed> {
  const subscription = await subscriptionForPage(ports.manager, mail.subscriptionId ?? 0)
  const comment = subscription && (await commentForMail(ports.manager, mail.commentId ?? 0))
  if (!subscription || !comment || /^(spam|deleted)$/.test(comment.state))
    return dropped('The comment was deleted before the e-mail was sent.')
  if (subscription.confirmedAt || subscription.endedAt)
    return dropped('The reader has already confirmed or declined.')
  return {
    outcome: 'composed',
    ...confirmMail(words, {
      title: subscription.title,
      link: publicOrigin(ports) + subscriptionPath(ports, subscription.id),
    }),
  }
}

function permalink(ports: ComposePorts, { id, slug }: CommentForMail): string | undefined {
  const path = addressFor(ports, 'post', slug)?.path
  return path === undefined
    ? undefined
    : `${publicOrigin(ports)}${path}?${COMMENT_PARAMETER}=${id}#comment-${id}`
}
