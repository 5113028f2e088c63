/**
 * Sends what is due: a moment after comments have changed, and every few seconds, because other processes write, too. A mail
 * belongs to one process while it is sent. It is sent again after a while if that fails, or if the process dies; so a mail
 * can arrive twice, but it is never lost.
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
import { compose, toldStates } from './compose.ts'
import type { Transport } from './transport.ts'

/** How often is looked for what other processes have written, in milliseconds. */
const LOOK = 5_000
/** How long after a change is looked, in milliseconds: several changes often come together. */
const SOON = 200
/** Mails of one round. Others are sent in the next one. */
const ROUND = 100

export type MailerPorts = SitePort & OriginsPort & CursorKeyPort & DatabasePort & LogPort & ChangePort

export interface MailerOptions {
  transport: Transport
  /** Returns the origin of the workbench, to which mails to the author link. */
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
  /** When the next round begins, as `performance.now()` tells it. */
  #planned = Infinity

  /** The folder in which the stand-in keeps mails; null if real ones are sent. */
  readonly outbox: string | null

  constructor(ports: MailerPorts, { transport, workbench, outbox = null }: MailerOptions) {
    this.#ports = ports
    this.outbox = outbox
    this.#transport = transport
    this.#workbench = workbench
  }

  /** Where mail goes. */
  get target(): string {
    return this.#transport.target
  }

  /** From whom mails are. */
  get sender(): { name: string; address: string } {
    const { settings, comments } = this.#ports.site.definition
    return { name: settings.title, address: comments.notify.from ?? `no-reply@${this.#host}` }
  }

  /** Returns the Message-ID of a mail, which is the same each time it is sent (RFC 5322 §3.6.4). */
  messageId(mail: number): string {
    return `<${mail}.${signFor(this.#ports.cursorKey, 'mail')(String(mail))}@${this.#host}>`
  }

  get #host(): string {
    const origin = publicOrigin(this.#ports)
    const host = URL.canParse(origin) ? new URL(origin).hostname : ''
    // Numbers are no names of mail servers.
    return /[a-z]/i.test(host) && !host.startsWith('[') ? host : 'localhost'
  }

  /** Looks in a moment for what is due. */
  soon(): void {
    this.#plan(SOON)
  }

  /** Sends from now on what is due. */
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

  /** Sends what is due now. @returns how many mails were sent */
  async send(): Promise<number> {
    await this.#running?.catch(() => undefined)
    this.#running = this.#round()
    return await this.#running
  }

  #plan(wait: number): void {
    const at = performance.now() + wait
    // Changes that go on and on must not put it off.
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
      about: toldStates(notify),
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
    this.#ports.log.error({ mail: mail.id, problem }, 'a mail could not be sent')
    await finishMail(manager, mail, { state: isFinal ? 'failed' : 'again', subject, problem })
    return false
  }

  #used() {
    const { site, origins, cursorKey } = this.#ports
    return { site, origins, cursorKey }
  }
}
