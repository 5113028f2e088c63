/**
 * Sends due e-mails: shortly after comments change, and every few seconds, because other processes add e-mails, too. While
 * an e-mail is being sent, it is claimed by one process. If sending fails or the process dies, it is retried later: an
 * e-mail can arrive twice, but it is never lost.
 */
import type { EntityManager } from 'typeorm'
import type {
  ChangePort,
  CursorKeyPort,
  DatabasePort,
  LogPort,
  OriginsPort,
  SitePort,
} from '../publish/ports.ts'
import { publicOrigin } from '../reader/comments/mail-links.ts'
import { signFor } from '../reader/secret.ts'
import { beginAuthorMail, finishMail, takeDueMail } from '../store/content/mail.ts'
import type { MailEntity } from '../store/entities/mail.ts'
import { compose, notifiedStates } from './compose.ts'
import type { Transport } from './transport.ts'

/** The interval between rounds, in milliseconds. It finds e-mails that other processes have queued. */
const LOOK = 5_000
/** The delay of a round after a change, in milliseconds, because changes often come in groups. */
const SOON = 200
/** The maximum number of e-mails of one round. The next round sends the others. */
const ROUND = 100

export type MailerPorts = SitePort & OriginsPort & CursorKeyPort & DatabasePort & LogPort & ChangePort

export interface MailerOptions {
  transport: Transport
  /** Returns the origin of the workbench, to which e-mails to the author link. */
  workbench: () => string
  outbox?: string | null
}

export class Mailer {
  readonly #ports: MailerPorts
  readonly #transport: Transport
  readonly #workbench: () => string
  #timer: NodeJS.Timeout | undefined
  #running: Promise<number> | undefined
  #unwatch: (() => void) | undefined
  #isStopped = false
  /** When the next round starts, on the clock of `performance.now()`. */
  #planned = Infinity

  /** The folder in which the test server keeps e-mails; null if another server is used. */
  readonly outbox: string | null

  constructor(ports: MailerPorts, { transport, workbench, outbox = null }: MailerOptions) {
    this.#ports = ports
    this.outbox = outbox
    this.#transport = transport
    this.#workbench = workbench
  }

  /** The host and port of the mail server. */
  get target(): string {
    return this.#transport.target
  }

  /** The sender of all e-mails. */
  get sender(): { name: string; address: string } {
    const { settings, comments } = this.#ports.site.definition
    return { name: settings.title, address: comments.notify.from ?? `no-reply@${this.#host}` }
  }

  /** Returns the Message-ID of an e-mail, which is the same at each attempt (RFC 5322 §3.6.4). */
  messageId(mail: number): string {
    return `<${mail}.${signFor(this.#ports.cursorKey, 'mail')(String(mail))}@${this.#host}>`
  }

  get #host(): string {
    const origin = publicOrigin(this.#ports)
    const host = URL.canParse(origin) ? new URL(origin).hostname : ''
    // An IP address is not a valid domain of an e-mail address.
    return /[a-z]/i.test(host) && !host.startsWith('[') ? host : 'localhost'
  }

  /** Starts a round shortly. */
  soon(): void {
    this.#plan(SOON)
  }

  /** Starts sending due e-mails. */
  start(): void {
    this.#unwatch = this.#ports.watchChanges((what) => {
      if (what === 'comments') this.#plan(SOON)
    })
    this.#plan(SOON)
  }

  async stop(): Promise<void> {
    this.#isStopped = true
    this.#unwatch?.()
    clearTimeout(this.#timer)
    await this.#running?.catch(() => undefined)
    this.#transport.close()
  }

  /** Sends the e-mails that are due. @returns the number of e-mails sent */
  async send(): Promise<number> {
    await this.#running?.catch(() => undefined)
    this.#running = this.#round()
    return await this.#running
  }

  #plan(wait: number): void {
    const at = performance.now() + wait
    // A steady stream of changes must not postpone the round.
    if (this.#isStopped || this.#planned <= at) return
    clearTimeout(this.#timer)
    this.#planned = at
    this.#timer = setTimeout(() => {
      this.#planned = Infinity
      this.send()
        .catch((error: unknown) => this.#ports.log.error({ error: String(error) }, 'mail could not be sent'))
        .finally(() => this.#plan(LOOK))
    }, wait)
    this.#timer.unref()
  }

  async #round(): Promise<number> {
    const { manager } = this.#ports.database
    const { notify } = this.#ports.site.definition.comments
    await beginAuthorMail(manager, {
      about: notifiedStates(notify),
      recipient: notify.about === 'none' ? null : notify.author,
    })
    let sent = 0
    for (let count = 0; count < ROUND && !this.#isStopped; count++) {
      const mail = await takeDueMail(manager)
      if (!mail) break
      if (await this.#deliver(manager, mail)) sent++
    }
    return sent
  }

  async #deliver(manager: EntityManager, mail: MailEntity): Promise<boolean> {
    const composed = await compose({ ...this.#used(), manager }, mail, this.#workbench())
    if (composed.outcome === 'dropped') {
      await finishMail(manager, mail, { state: 'dropped', problem: composed.problem })
      return false
    }
    const { subject, text, thread, stop } = composed
    const delivery = await this.#transport.send({
      from: this.sender,
      to: mail.recipient,
      subject,
      text,
      id: this.messageId(mail.id),
      ...(thread === undefined ? {} : { thread: `<replies.${thread}@${this.#host}>` }),
      ...(stop === undefined ? {} : { stop }),
    })
    if (delivery.outcome === 'sent') {
      await finishMail(manager, mail, { state: 'sent', subject })
      return true
    }
    const { isFinal, problem } = delivery
    this.#ports.log.error({ mail: mail.id, problem }, 'an e-mail could not be sent')
    await finishMail(manager, mail, { state: isFinal ? 'failed' : 'again', subject, problem })
    return false
  }

  #used() {
    const { site, origins, cursorKey } = this.#ports
    return { site, origins, cursorKey }
  }
}
