// E-mails about comments: content, recipients and unsubscribing. An independent parser (mailparser) reads them.
import type { Hono } from 'hono'
import type { ParsedMail } from 'mailparser'
import { describe, expect, it } from 'vitest'
import { eraseWriter, setState } from '../author/comments/moderate.ts'
import { write } from '../author/writing.ts'
import { blogListener } from '../reader/listener.ts'
import { cookiesAfter } from '../reader/responses.ts'
import { forgetOldMail } from '../store/content/mail.ts'
import { CommentEntity } from '../store/entities/content.ts'
import { sendComment } from '../testing/comments.ts'
import { MAIL_RULES, MAILED_BLOG, receiver, useMailedDemo, type MailedDemo } from '../testing/mail.ts'

let demo: MailedDemo
let readers: Hono
useMailedDemo((made) => {
  demo = made
  readers = blogListener(made.test.blog)
})

/** Returns a header, unfolded. */
const header = (mail: ParsedMail | undefined, name: string): string | undefined =>
  mail?.headerLines
    .find((one) => one.key === name)
    ?.line.replace(/^[^:]+: */, '')
    .replace(/\r?\n\s+/g, ' ')
    .trim()
const linkIn = (mail: ParsedMail | undefined): string =>
  /^http:\/\/journal\.cobble\.example(\/replies-by-mail\/\S+)$/m.exec(mail?.text ?? '')?.[1] ?? ''
const press = (path: string, body: string) =>
  readers.request(MAILED_BLOG + path, {
    method: 'POST',
    headers: { 'content-type': 'application/x-www-form-urlencoded' },
    body,
  })
const VERA = 'vera@reader.example'

/** Adds a comment whose writer asks for e-mails about replies and confirms the address. @returns the path of the link */
async function subscribed(name = 'Vera'): Promise<string> {
  await demo.page.send({ name, email: VERA, text: `Words of ${name}`, replies: 'on' })
  await demo.page.setState(name, 'shown')
  const path = linkIn((await demo.arrivedAt(VERA))[0])
  await press(path, 'do=confirm')
  return path
}

describe('the author', () => {
  it('gets one e-mail about all waiting comments, and the next one ten minutes later at the earliest', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      for (let count = 1; count <= 23; count++)
        await demo.page.send({ name: `Writer ${count}`, text: `Text number ${count}` })
      const [mail, ...more] = await demo.arrived()
      expect(more).toEqual([])
      expect(mail && receiver(mail)).toBe('ines@cobble.example')
      expect(mail?.from?.text).toBe('"Cobble Lane Repair Café" <journal@cobble.example>')
      expect(mail?.subject).toBe('[Cobble Lane Repair Café] 23 new comments')
      expect(mail?.text).toContain('> Text number 20\n')
      expect(mail?.text).not.toContain('Text number 21')
      expect(mail?.text).toContain('And 3 more.')
      expect(mail?.text).toContain(
        `http://127.0.0.1:4310/comments?state=waiting&comment=${await demo.id('Writer 1')}`,
      )
      await demo.page.send({ name: 'Later', text: 'Too soon' })
      expect(await demo.arrived()).toEqual([])
      await demo.test.database.query("UPDATE mail SET created_at = created_at - interval '11 minutes'")
      expect((await demo.arrived()).map((one) => one.subject)).toEqual([
        expect.stringMatching(/A comment on “.*oth.*”$/),
      ])
    })
  })

  it('gets no e-mail about spam, imported comments, or comments that were moderated meanwhile', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      await demo.page.send({ name: 'Robot', text: 'Buy', homepage: 'filled' })
      await demo.page.send({ name: 'Quick', text: 'Decided' })
      await demo.page.setState('Quick', 'shown')
      await demo.test.database.query(
        "INSERT INTO comment (post_id, name, text, state, created_at) SELECT post_id, 'Old', 'Imported', 'waiting', now() - interval '1 day' FROM comment LIMIT 1",
      )
      expect(await demo.arrived()).toEqual([])
      expect(await demo.rows()).toEqual([])
    })
  })

  it('gets no e-mails if the rules have no address', async () => {
    await demo.page.withRules('{ show: after-approval }', async () => {
      await demo.page.send({ text: 'No notification' })
      expect(await demo.arrived()).toEqual([])
      expect(await demo.test.database.query('SELECT * FROM comment_notice')).toEqual([])
    })
  })
})

describe('a reader', () => {
  it('gets e-mails about replies only after confirming, and opening the link does not confirm', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      await demo.page.send({ email: VERA, text: 'First', replies: 'on' })
      await demo.page.setState('Vera', 'shown')
      const [confirm] = await demo.arrivedAt(VERA)
      expect(confirm?.subject).toMatch(/^\[Cobble Lane Repair Café\] Confirm e-mails about replies on “.*”$/)
      // The comment is left out, so that the form cannot be used to write to strangers.
      expect(confirm?.text).not.toContain('First')
      const path = linkIn(confirm)
      const opened = await readers.request(MAILED_BLOG + path)
      expect(opened.status).toBe(200)
      expect(opened.headers.get('cache-control')).toBe('no-store')
      const html = await opened.text()
      expect(html).toContain('v…@reader.example')
      expect(html).not.toContain('vera@reader')
      await demo.reply('Rasmus', 'Vera')
      expect(await demo.arrivedAt(VERA)).toEqual([])
      await press(path, 'do=confirm')
      await demo.reply('Odile', 'Rasmus')
      const [mail, ...more] = await demo.arrivedAt(VERA)
      expect(more).toEqual([])
      expect(mail?.subject).toMatch(/^\[Cobble Lane Repair Café\] Odile replied on “/)
      expect(mail?.text).toContain('> Reply of Odile\n')
      expect(mail?.text).toContain(
        `${MAILED_BLOG}/posts/moth?comment=${await demo.id('Odile')}#comment-${await demo.id('Odile')}`,
      )
    })
  })

  it('unsubscribes with one click in the mail program (RFC 8058), also as multipart', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      const path = await subscribed()
      await demo.reply('Rasmus', 'Vera')
      const [mail] = await demo.arrivedAt(VERA)
      // RFC 8058 §3.1 and §8.
      expect(header(mail, 'list-unsubscribe')).toBe(`<${MAILED_BLOG}${path}>`)
      expect(header(mail, 'list-unsubscribe-post')).toBe('List-Unsubscribe=One-Click')
      // RFC 3834 §5.
      expect(header(mail, 'auto-submitted')).toBe('auto-generated')
      const form = new FormData()
      form.set('List-Unsubscribe', 'One-Click')
      const answer = await readers.request(MAILED_BLOG + path, { method: 'POST', body: form })
      // RFC 8058 §3.2: no redirect.
      expect(answer.status).toBe(200)
      await demo.reply('Odile', 'Vera')
      expect(await demo.arrivedAt(VERA)).toEqual([])
      expect((await demo.rows()).filter((one) => one.kind === 'reply')).toHaveLength(1)
    })
  })

  it('cancels all subscriptions at once, and can confirm again', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      const first = await subscribed()
      const second = await subscribed('Vera Two')
      await press(first, 'do=stop-all')
      await demo.reply('Rasmus', 'Vera Two')
      expect(await demo.arrivedAt(VERA)).toEqual([])
      await press(second, 'do=confirm')
      await demo.reply('Odile', 'Vera Two')
      expect(await demo.arrivedAt(VERA)).toHaveLength(1)
    })
  })

  it('gets no e-mail about their own or hidden replies, and one at most about the same reply', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      await subscribed()
      const toVera = async () => await demo.arrivedAt(VERA)
      await demo.reply('Vera again', 'Vera', { email: 'VERA@reader.example' })
      expect(await toVera()).toEqual([])
      await demo.page.send({ name: 'Waits', text: 'Not yet', parent: String(await demo.id('Vera')) })
      expect(await toVera()).toEqual([])
      await demo.page.setState('Waits', 'shown')
      expect(await toVera()).toHaveLength(1)
      await demo.page.setState('Waits', 'deleted')
      await demo.page.setState('Waits', 'shown')
      expect(await toVera()).toEqual([])
    })
  })

  it('gets no e-mail about a reply that was deleted before it was sent', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      await subscribed()
      await demo.reply('Rasmus', 'Vera')
      await demo.page.setState('Rasmus', 'spam')
      expect(await demo.arrivedAt(VERA)).toEqual([])
      expect((await demo.rows()).find((one) => one.kind === 'reply')).toMatchObject({
        state: 'dropped',
        problem: 'The reply is no longer shown.',
      })
    })
  })

  it('confirms an address once per browser', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      const send = (cookies: Record<string, string>, text: string) =>
        sendComment(
          demo.test.blog,
          'moth',
          { name: 'Vera', email: 'v@reader.example', text, replies: 'on' },
          { cookies },
        )
      const first = await send({}, 'One')
      const cookies = cookiesAfter(first)
      await press(linkIn((await demo.arrivedAt('v@reader.example'))[0]), 'do=confirm')
      await send(cookies, 'Two')
      const asked = async () => (await demo.rows()).filter((one) => one.kind === 'confirm').length
      expect(await asked()).toBe(1)
      await send({}, 'Three')
      expect(await asked()).toBe(2)
    })
  })

  it('sees an error without an address, and a notice after a confirmation e-mail was sent', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      const refused = await demo.page.send({ text: 'No address', replies: 'on' })
      expect(refused.status).toBe(422)
      expect(refused.body).toContain('Enter the e-mail address for replies.')
      expect(refused.body).toMatch(/name="replies" checked/)
      const sent = await demo.page.send({ text: 'An address', email: 'v@reader.example', replies: 'on' })
      const after = await demo.page.get('/posts/moth', cookiesAfter(sent))
      expect(after.body).toContain('We have sent you an e-mail.')
      expect((await demo.page.get('/posts/moth')).body).not.toContain('We have sent you an e-mail.')
    })
  })
})

describe('misuse', () => {
  it('an address gets three unanswered confirmation e-mails a month, even if ten comments arrive at once', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      const send = (text: string) =>
        demo.page.send({ email: 'target@reader.example', text, replies: 'on' }).then((one) => one.status)
      const statuses = await Promise.all(Array.from({ length: 10 }, (_, count) => send(`Text ${count}`)))
      expect(statuses.sort()).toEqual([303, 303, 303, 422, 422, 422, 422, 422, 422, 422])
      // A rejected comment is not stored.
      expect(await demo.page.stored()).toHaveLength(3)
      expect(await demo.arrivedAt('target@reader.example')).toHaveLength(3)
    })
  })

  it('unanswered requests of others do not stop a browser that has confirmed the address', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      const send = (cookies: Record<string, string>, text: string) =>
        sendComment(demo.test.blog, 'moth', { name: 'Vera', email: VERA, text, replies: 'on' }, { cookies })
      const cookies = cookiesAfter(await send({}, 'Mine'))
      await press(linkIn((await demo.arrivedAt(VERA))[0]), 'do=confirm')
      for (const text of ['a', 'b', 'c']) await send({}, text)
      expect((await send({}, 'd')).status).toBe(422)
      expect((await send(cookies, 'Mine again')).status).toBe(303)
    })
  })

  it('spam causes no confirmation e-mail', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      await demo.page.send({ email: 'target@reader.example', text: 'Buy', replies: 'on', homepage: 'x' })
      expect(await demo.rows()).toEqual([])
      expect(await demo.test.database.query('SELECT * FROM comment_subscription')).toEqual([])
    })
  })

  it('forged links and links of other subscriptions change nothing', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      const path = await subscribed()
      const [number = '', signature = ''] = path.replace(/.*\//, '').split('.')
      for (const wrong of [
        `${Number(number) + 1}.${signature}`,
        `${number}.${signature.slice(1)}`,
        number,
        `${number}.`,
      ]) {
        const answer = await press(`/replies-by-mail/${wrong}`, 'do=stop')
        expect(answer.status).toBe(404)
      }
      await demo.reply('Rasmus', 'Vera')
      expect(await demo.arrivedAt(VERA)).toHaveLength(1)
    })
  })

  it('typed text cannot add a header, a recipient or an unquoted line', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      const name = 'Eve\r\nBcc: all@reader.example'
      await subscribed()
      await demo.page.send({
        name,
        text: 'Hello\r\n.\r\nMAIL FROM:<x@y.example>\n-- \nBcc: z@y.example',
        parent: String(await demo.id('Vera')),
      })
      const [{ name: kept = '' } = {}] = await demo.test.database.query<{ name: string }[]>(
        "SELECT name FROM comment WHERE name LIKE 'Eve%'",
      )
      await demo.page.setState(kept, 'shown')
      const all = await demo.arrived()
      expect(all).toHaveLength(1)
      expect(all[0] && receiver(all[0])).toBe(VERA)
      expect(all[0]?.bcc).toBeUndefined()
      expect(all[0]?.text).toContain('> .\n> MAIL FROM:<x@y.example>\n')
      for (const wrong of [
        'a@b.example, c@d.example',
        'a@b.example>',
        '"a b"@c.example',
        'a@b.example\nBcc: c@d.example',
      ]) {
        await demo.page.send({ email: wrong, text: 'Two receivers', replies: 'on' })
      }
      expect((await demo.rows()).filter((one) => one.kind === 'confirm').map((one) => one.recipient)).toEqual(
        [VERA],
      )
    })
  })

  it('erasing a writer also erases their subscriptions and e-mails', async () => {
    await demo.page.withRules(MAIL_RULES, async () => {
      await subscribed()
      await write(demo.test.blog, async (writing) => eraseWriter(writing, await demo.id('Vera')))
      for (const table of ['mail', 'comment_subscription'])
        expect(
          await demo.test.database.query(`SELECT FROM ${table} one WHERE one::text LIKE '%vera@reader%'`),
          table,
        ).toEqual([])
    })
  })
})

it('e-mails are deleted after two months, unconfirmed subscriptions after one', async () => {
  await demo.page.withRules(MAIL_RULES, async () => {
    await subscribed()
    await demo.page.send({ name: 'Never', email: 'never@reader.example', text: 'Never', replies: 'on' })
    await demo.test.database.query("UPDATE mail SET created_at = now() - interval '61 days'")
    await demo.test.database.query("UPDATE comment_subscription SET asked_at = now() - interval '31 days'")
    await forgetOldMail(demo.test.database.manager)
    expect(await demo.rows()).toEqual([])
    expect(await demo.test.database.query('SELECT email FROM comment_subscription')).toEqual([
      { email: VERA },
    ])
  })
})

it('moderation in bulk tells every subscriber, in one transaction', async () => {
  await demo.page.withRules(MAIL_RULES, async () => {
    await subscribed()
    const parent = String(await demo.id('Vera'))
    for (let count = 0; count < 20; count++)
      await demo.page.send({ name: `N${count}`, text: `Text ${count}`, parent })
    const rows = await demo.test.database.getRepository(CommentEntity).findBy({ state: 'waiting' })
    const ours = rows.filter((one) => one.name.startsWith('N'))
    const done = await write(demo.test.blog, (writing) => setState(writing, ours, 'shown'))
    expect(done.ok).toBe(true)
    expect(await demo.arrivedAt(VERA)).toHaveLength(20)
  })
})
