/** Operations for mails about comments: what was sent, what could not be, and the stand-in's outbox. */
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
  to: Type.String({ description: 'empty before it is known' }),
  subject: Type.String({ description: 'empty before it was sent' }),
  at: Time,
  done: Nullable(Time),
  tries: Type.Integer(),
  next: Nullable(Type.String({ format: 'date-time', description: 'when it is sent next, while it waits' })),
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
  'GET /api/comments/mails': {
    summary: 'List mails about comments, newest first',
    query: Type.Object(
      {
        state: Type.Optional(State),
        search: Type.Optional(
          Type.String({ maxLength: 200, description: 'part of the receiver or the subject' }),
        ),
      },
      closed,
    ),
    answer: Type.Object({
      target: Type.String({ description: 'the server that mail is given to' }),
      isStandIn: Type.Boolean({
        description: 'whether the server is the one that ships, which passes nothing on',
      }),
      from: Type.String(),
      mails: Type.Array(MailItem),
      counts: Counts,
      isMore: Type.Boolean(),
      subscribers: Type.Integer({ description: 'readers who are told about replies' }),
    }),
  },
  'GET /api/comments/mail': {
    summary: 'Return a mail as the server that ships has received it',
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
  'POST /api/comments/mails/retry': {
    summary: 'Send mails again that could not be sent',
    body: Type.Object({ mails: Type.Array(Id, { minItems: 1, maxItems: 1_000 }) }, closed),
    answer: Type.Object({ retried: Type.Integer() }),
  },
} as const satisfies OperationGroup
