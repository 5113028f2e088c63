/** E-mail about comments, for tests: a demo whose mail goes to the test server, and what arrives there. */
import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { simpleParser, type ParsedMail } from 'mailparser'
import { afterAll, beforeAll, beforeEach } from 'vitest'
import { Mailer } from '../mail/mailer.ts'
import { smtpTransport } from '../mail/transport.ts'
import { startMailStandIn } from '../standins/mail/server.ts'
import { CommentEntity } from '../store/entities/content.ts'
import { MailEntity } from '../store/entities/mail.ts'
import { useCommentedDemo, type CommentedDemo } from './comments.ts'

export const MAIL_RULES =
  '{ fields: { email: optional }, rate: { per-address: 100 }, notify: { author: ines@cobble.example, from: journal@cobble.example, replies: true } }'
/** The origin of the blog in e-mails. */
export const MAILED_BLOG = 'http://journal.cobble.example'

export interface MailedDemo extends CommentedDemo {
  mailer: Mailer
  /** Returns a mailer of another process. @param url of its mail server; the test server by default */
  another(url?: string): Mailer
  /** The names of the e-mails that the test server has kept. */
  kept(): Promise<string[]>
  /** Sends the e-mails that are due. @returns those that arrived, oldest first */
  arrived(): Promise<ParsedMail[]>
  /** Does so. @returns those that arrived at an address */
  arrivedAt(address: string): Promise<ParsedMail[]>
  /** The rows of all e-mails, oldest first. */
  rows(): Promise<MailEntity[]>
  /** The id of the comment by a name. */
  id(name: string): Promise<number>
  /** Adds a reply that is shown at once. */
  reply(name: string, to: string, more?: Record<string, string>): Promise<void>
}

export const receiver = (mail: ParsedMail) => (Array.isArray(mail.to) ? '' : mail.to?.text)

/** Prepares it for the tests of a file. No comment and no e-mail is left before each test. */
export function useMailedDemo(take: (made: MailedDemo) => void): void {
  let demo: CommentedDemo
  let end = () => Promise.resolve()
  let clear = () => Promise.resolve()
  useCommentedDemo((made) => (demo = made), { origins: [MAILED_BLOG] })
  beforeAll(async () => {
    const { test, page } = demo
    const folder = await mkdtemp(join(tmpdir(), 'esquina-outbox-'))
    const standIn = await startMailStandIn(folder)
    const another = (url = standIn.url) =>
      new Mailer(test.blog, {
        transport: smtpTransport(url),
        workbench: () => 'http://127.0.0.1:4310',
        outbox: folder,
      })
    const mailer = another()
    const kept = () => readdir(folder)
    const arrived = async () => {
      const before = new Set(await kept())
      await mailer.send()
      const names = (await kept()).filter((one) => !before.has(one)).sort()
      return await Promise.all(names.map(async (name) => simpleParser(await readFile(join(folder, name)))))
    }
    const id = async (name: string) =>
      (await test.database.getRepository(CommentEntity).findOneByOrFail({ name })).id
    take({
      ...demo,
      mailer,
      another,
      kept,
      arrived,
      arrivedAt: async (address) => (await arrived()).filter((one) => receiver(one) === address),
      rows: () => test.database.getRepository(MailEntity).find({ order: { id: 'ASC' } }),
      id,
      reply: async (name, to, more = {}) => {
        await page.send({ name, text: `Reply of ${name}`, parent: String(await id(to)), ...more })
        await page.setState(name, 'shown')
      },
    })
    clear = async () => {
      await test.database.query('TRUNCATE mail, comment_notice, comment_subscription')
      for (const name of await kept()) await rm(join(folder, name))
    }
    end = async () => {
      await mailer.stop()
      await standIn.close()
      await rm(folder, { recursive: true })
    }
  })
  afterAll(() => end())
  beforeEach(() => clear())
}
