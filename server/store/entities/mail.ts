/** The tables of e-mails about comments. They have no foreign keys to comments, because e-mails are kept longer. */
import { Check, Column, Entity, Index, PrimaryColumn, PrimaryGeneratedColumn, Unique } from 'typeorm'

/** A reader who asked for e-mails about replies to a comment. */
@Entity({ name: 'comment_subscription' })
@Index('comment_subscription_email_idx', { synchronize: false })
@Unique('comment_subscription_key', ['commentId', 'email'])
export class CommentSubscriptionEntity {
  @PrimaryGeneratedColumn('identity', {
    type: 'int',
    primaryKeyConstraintName: 'comment_subscription_pk',
  })
  id: number
  @Column({ type: 'int', name: 'comment_id' }) commentId: number
  @Column({ type: 'text' }) email: string
  /** Identifies the browser that asked, as it is stored with the comment. */
  @Column({ type: 'text', nullable: true }) writer: string | null
  @Column({ type: 'timestamptz', name: 'asked_at', default: () => 'now()' }) askedAt: Date
  /** When the link in the confirmation e-mail was used. null: no e-mails about replies are sent. */
  @Column({ type: 'timestamptz', name: 'confirmed_at', nullable: true }) confirmedAt: Date | null
  @Column({ type: 'timestamptz', name: 'ended_at', nullable: true }) endedAt: Date | null
}

/** A comment that the author has to be notified of. A trigger adds it. */
@Entity({ name: 'comment_notice' })
export class CommentNoticeEntity {
  @PrimaryColumn({ type: 'int', name: 'comment_id', primaryKeyConstraintName: 'comment_notice_pk' })
  commentId: number
  /** The e-mail that covers it; null until it is queued. */
  @Column({ type: 'int', name: 'mail_id', nullable: true }) mailId: number | null
}

export const MAIL_KINDS = ['author', 'reply', 'confirm'] as const
export const MAIL_STATES = ['waiting', 'sent', 'failed', 'dropped'] as const

/** An e-mail that is queued or was sent. Its text is composed when it is sent, and is not kept. */
@Entity({ name: 'mail' })
@Check('mail_kind_check', "kind IN ('author', 'reply', 'confirm')")
@Check('mail_state_check', "state IN ('waiting', 'sent', 'failed', 'dropped')")
@Index('mail_reply_idx', ['commentId', 'recipient'], { unique: true, where: "kind = 'reply'" })
@Index('mail_due_idx', ['nextAt'], { where: "state = 'waiting'" })
export class MailEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'mail_pk' }) id: number
  @Column({ type: 'text' }) kind: (typeof MAIL_KINDS)[number]
  /** The reply, or the comment of the subscription; null for e-mails to the author, which cover several. */
  @Column({ type: 'int', name: 'comment_id', nullable: true }) commentId: number | null
  @Column({ type: 'int', name: 'subscription_id', nullable: true }) subscriptionId: number | null
  /** Empty until it is known. */
  @Column({ type: 'text', default: '' }) recipient: string
  @Column({ type: 'text', default: '' }) subject: string
  @Column({ type: 'text', default: 'waiting' }) state: (typeof MAIL_STATES)[number]
  @Column({ type: 'int', default: 0 }) tries: number
  /** The time of the next attempt. */
  @Column({ type: 'timestamptz', name: 'next_at', default: () => 'now()' }) nextAt: Date
  /** Why it was not sent. */
  @Column({ type: 'text', nullable: true }) problem: string | null
  @Column({ type: 'timestamptz', name: 'created_at', default: () => 'now()' }) createdAt: Date
  @Column({ type: 'timestamptz', name: 'done_at', nullable: true }) doneAt: Date | null
}
