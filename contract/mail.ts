/** Operations for e-mail about comments: the queue, delivery failures, and the test server's outbox. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, LARGEST_ID, Time } from './fields.ts'
import type { OperationGroup } from './operation.ts'

const Id = Type.Integer({ minimum: 1, maximum: LARGEST_ID })
const State = Type.Enum(['waiting', 'sent', 'failed', 'dropped'])

export const MailItem = Type.Object({
  id: Id,
  kind: Type.Enum(['author', 'reply', 'confirm']),
  state: State,
  to: Type.String({ description: 'empty until it is known' }),
  subject: Type.String({ description: 'empty until it is sent' }),
  at: Time,
  done: Nullable(Time),
  tries: Type.Integer(),
  next: Nullable(
    Type.String({ format: 'date-time', description: 'the time of the next attempt, while it is queued' }),
  ),
  problem: Nullable(Type.String({ description: 'why it was not sent' })),
  comment: Nullable(Id),
})
export type MailItem = Static<typeof MailItem>

const Counts = Type.Object({
  waiting: Type.Integer(),
  sent: Type.Integer(),
  failed: Type.Integer(),
  dropped: Type.Integer(),
})

export const mailOperations = {
  'GET /api/comments/emails': {
    summary: 'List e-mails about comments, newest first',
    query: Type.Object(
      {
        state: Type.Optional(State),
        search: Type.Optional(
          Type.String({ maxLength: 200, description: 'part of the recipient or the subject' }),
        ),
      },
      closed,
    ),
    answer: Type.Object({
      target: Type.String({ description: 'the server that delivers e-mail' }),
      isStandIn: Type.Boolean({
        description: 'whether this is the built-in test server, which keeps e-mails and delivers none',
      }),
      from: Type.String(),
      emails: Type.Array(MailItem),
      counts: Counts,
      isMore: Type.Boolean(),
      subscribers: Type.Integer({ description: 'readers who are notified of replies' }),
    }),
  },
  'GET /api/comments/email': {
    summary: 'Return an e-mail as the built-in test server received it',
    query: Type.Object({ id: Type.String({ pattern: '^[1-9][0-9]{0,8}$' }) }, closed),
    answer: Type.Object({
      mail: MailItem,
      message: Nullable(
        Type.Object({
          text: Type.String(),
          headers: Type.Array(Type.Object({ name: Type.String(), value: Type.String() })),
        }),
      ),
    }),
  },
  'POST /api/comments/emails/retry': {
    summary: 'Retry e-mails that failed',
    body: Type.Object({ emails: Type.Array(Id, { minItems: 1, maxItems: 1_000 }) }, closed),
    answer: Type.Object({ retried: Type.Integer() }),
  },
} as const satisfies OperationGroup
