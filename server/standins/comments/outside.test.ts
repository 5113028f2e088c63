// The outside comment service: threads, moderation, copying comments both ways, and the check of thread identifiers.
import { appendFile, mkdtemp, rm } from 'node:fs/promises'
import { createServer, type Server } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { addOutside, listOutside, sendComments, serviceOf } from '../../author/comments/outside-service.ts'
import { write } from '../../author/writing.ts'
import { Checks } from '../../checks/service.ts'
import { CommentEntity } from '../../store/entities/content.ts'
import { commentedPage, type CommentedPage } from '../../testing/comments.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { saveTexts, textOf } from '../../testing/edits.ts'
import { startCommentService, type CommentService } from './service.ts'

const addressOf = (server: Server): string => {
  const address = server.address()
  return `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`
}

let test: TestBlog
let page: CommentedPage
let folder: string
let service: CommentService
let checks: Checks
const file = () => join(folder, 'threads.json')

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'esquina-threads-'))
  service = await startCommentService(file())
  test = await testBlog({ origins: ['http://journal.cobble.example'], commentService: service.origin })
  page = commentedPage(test)
  checks = new Checks(test.blog)
})
afterAll(async () => {
  await checks.stop()
  await service.close()
  await test.close()
  await rm(folder, { recursive: true })
})

const post = (fields: Record<string, string>, origin = service.origin) =>
  fetch(`${service.origin}/thread`, {
    method: 'POST',
    redirect: 'manual',
    headers: { 'content-type': 'application/x-www-form-urlencoded', origin },
    body: new URLSearchParams({ site: 'blog', thread: 'one', address: '', title: 'One', ...fields }),
  })
const api = (method: string, path: string, body?: unknown, key = service.key) =>
  fetch(service.origin + path, {
    method,
    headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json' },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  })
const thread = async (name: string) =>
  await (await fetch(`${service.origin}/thread?site=blog&thread=${name}`)).text()
const all = async (site = 'blog') =>
  (
    (await (await api('GET', `/api/comments?site=${site}`)).json()) as {
      comments: { key: string; text: string }[]
    }
  ).comments

describe('the built-in test service', () => {
  it('keeps a thread by site and identifier, also across restarts', async () => {
    expect((await post({ name: 'Vera', text: 'Kept' })).status).toBe(303)
    expect(await thread('one')).toContain('Kept')
    expect(await thread('two')).not.toContain('Kept')
    // A line that was cut off by a crash.
    await appendFile(file(), '{"key":"half')
    const again = await startCommentService(file())
    expect(await (await fetch(`${again.origin}/thread?site=blog&thread=one`)).text()).toContain('Kept')
    expect(await (await fetch(`${again.origin}/thread?site=other&thread=one`)).text()).not.toContain('Kept')
    await again.close()
  })

  it('shows and hides comments when they are moderated, which requires the key', async () => {
    await post({ name: 'Robot', text: 'Buy this', thread: 'moderated' })
    const comment = (await all()).find((one) => one.text === 'Buy this')?.key
    expect(
      (await api('POST', '/api/moderate', { site: 'blog', comment, state: 'spam' }, 'wrong')).status,
    ).toBe(401)
    expect(await thread('moderated')).toContain('Buy this')
    expect((await api('POST', '/api/moderate', { site: 'other', comment, state: 'spam' })).status).toBe(404)
    expect((await api('POST', '/api/moderate', { site: 'blog', comment, state: 'spam' })).status).toBe(200)
    expect(await thread('moderated')).not.toContain('Buy this')
    await api('POST', '/api/moderate', { site: 'blog', comment, state: 'shown' })
    expect(await thread('moderated')).toContain('Buy this')
  })

  it('rejects forms of other sites, and escapes typed text', async () => {
    expect((await post({ name: 'Eve', text: 'x' }, 'http://elsewhere.example')).status).toBe(403)
    await post({
      name: '<script>alert(1)</script>',
      text: '"><img src=x onerror=alert(1)>',
      thread: 'hostile',
    })
    const html = await thread('hostile')
    expect(html).not.toMatch(/<img|<script>alert/)
    expect((await post({ name: ' ', text: 'typed' })).status).toBe(422)
    expect(await (await post({ name: '', text: 'typed & kept' })).text()).toContain('typed &amp; kept')
    for (const wrong of [{ thread: '' }, { site: 'No!' }, { thread: 'x'.repeat(2_000) }])
      expect((await post({ name: 'a', text: 'b', ...wrong })).status, JSON.stringify(wrong)).toBe(400)
    for (const wrong of [
      null,
      {},
      { site: 'blog', comments: [{}] },
      { site: 'blog', comments: [{ key: 'a' }] },
    ])
      expect((await api('POST', '/api/comments', wrong)).status, JSON.stringify(wrong)).toBe(400)
  })
})

describe('a blog with an outside service', () => {
  beforeEach(() => page.clear())

  it('embeds the thread of the post, allows its script and frame on that page only, and accepts no comments', async () => {
    await page.withRules('{ outside: { service: test } }', async () => {
      const shown = await page.get('/posts/moth')
      const [{ id = 0 } = {}] = await test.database.query<{ id: number }[]>(
        "SELECT id FROM post WHERE slug = 'moth'",
      )
      expect(shown.body).toContain(
        `<script src="${service.origin}/embed.js" data-site="blog" data-thread="post-${id}"`,
      )
      expect(shown.body).not.toContain('<form id="say"')
      // CSP Level 3.
      expect(shown.headers['content-security-policy']).toContain(`script-src 'self' ${service.origin};`)
      expect(shown.headers['content-security-policy']).toContain(`frame-src ${service.origin}`)
      const listing = await page.get('/posts')
      expect(listing.status).toBe(200)
      expect(listing.headers['content-security-policy']).not.toContain(service.origin)
      expect((await page.send({ text: 'Here?' })).status).toBe(403)
      expect(await page.stored()).toEqual([])
    })
    const back = await page.get('/posts/moth')
    expect(back.body).toContain('<form id="say"')
    expect(back.headers['content-security-policy']).not.toContain(service.origin)
  })

  it('copies each comment once in both directions, with replies and states, and without e-mail addresses', async () => {
    await page.send({ name: 'Vera', email: 'vera@reader.example', text: 'Mine' })
    await page.setState('Vera', 'shown')
    await page.withRules('{ outside: { service: test, site: moved } }', async () => {
      const found = serviceOf(test.blog, service.key)
      if (!found.ok) throw new Error('no service')
      const total = await test.database.getRepository(CommentEntity).count()
      expect(await sendComments(test.blog, found.value)).toMatchObject({ value: { added: total, known: 0 } })
      expect(await sendComments(test.blog, found.value)).toMatchObject({ value: { added: 0, known: total } })
      expect(JSON.stringify(await all('moved'))).not.toContain('@reader')
      const [mine] = await page.stored()
      const [{ id = 0 } = {}] = await test.database.query<{ id: number }[]>(
        "SELECT id FROM post WHERE slug = 'moth'",
      )
      const said = { thread: `post-${id}`, name: 'Rasmus', state: 'shown' }
      await api('POST', '/api/comments', {
        site: 'moved',
        comments: [
          { ...said, key: 'b', parent: 'a', text: 'Below it', at: '2026-11-02T10:00:00.000Z' },
          {
            ...said,
            key: 'a',
            parent: `esquina-${mine?.id ?? 0}`,
            text: 'To mine',
            at: '2026-11-01T10:00:00.000Z',
          },
          { ...said, key: 'c', parent: null, text: 'Buy', state: 'spam', at: '2026-11-03T10:00:00.000Z' },
          {
            ...said,
            key: 'd',
            parent: null,
            text: 'Where?',
            thread: 'post-999999',
            at: '2026-11-03T10:00:00.000Z',
          },
        ],
      })
      const fetched = async () => {
        const listed = await listOutside(found.value)
        if (!listed.ok) throw new Error(JSON.stringify(listed.problems))
        return await write(test.blog, (writing) =>
          addOutside(writing, test.blog, { service: found.value, comments: listed.value }),
        )
      }
      expect(await fetched()).toMatchObject({ value: { imported: 3, known: total, lost: 1 } })
      expect(await fetched()).toMatchObject({ value: { imported: 0, known: total + 3, lost: 1 } })
      // A comment that was edited after it was copied is recognised.
      await test.database.query("UPDATE comment SET text = 'Mine, edited' WHERE text = 'Mine'")
      expect(await fetched()).toMatchObject({ value: { imported: 0, known: total + 3, lost: 1 } })
      const rows = await page.stored()
      expect(rows.map(({ text, depth, state }) => [text, depth, state])).toEqual([
        ['Mine, edited', 0, 'shown'],
        ['To mine', 1, 'shown'],
        ['Below it', 2, 'shown'],
        ['Buy', 0, 'spam'],
      ])
    })
  })

  it('reports invalid answers of the service, and never sends the key to another address', async () => {
    const keys: (string | undefined)[] = []
    const other = createServer((request, response) => {
      keys.push(request.headers.authorization)
      response.end('{"comments":[],"total":0}')
    })
    const fake = createServer((request, response) => {
      if (request.url?.includes('site=page') === true) response.end('<html>')
      else if (request.url?.includes('site=shape') === true)
        response.end('{"comments":[{"key":1}],"total":1}')
      else if (request.url?.includes('site=away') === true)
        response.writeHead(302, { location: addressOf(other) }).end()
      else response.writeHead(503).end()
    })
    for (const one of [other, fake]) await new Promise<void>((ready) => one.listen(0, '127.0.0.1', ready))
    const asked = async (site: string) => {
      const origin = addressOf(fake)
      const listed = await listOutside({ service: origin, origin, site, identifier: 'id', key: 'secret' })
      return listed.ok ? null : `${listed.problems[0]?.message ?? ''} ${listed.problems[0]?.path ?? ''}`
    }
    expect(await asked('page')).toContain('its answer is not JSON.')
    expect(await asked('shape')).toMatch(/is missing/)
    expect(await asked('away')).toContain('it cannot be reached.')
    expect(await asked('down')).toContain('it answered 503.')
    expect(keys).toEqual([])
    for (const one of [other, fake]) await new Promise((closed) => one.close(closed))
    expect(
      await listOutside({
        service: '',
        origin: service.origin,
        site: 'blog',
        identifier: 'id',
        key: 'wrong',
      }),
    ).toMatchObject({
      problems: [{ message: expect.stringContaining('it answered 401.') }],
    })
  })

  it('reports a service that cannot be reached, or that is not declared', async () => {
    const away = {
      service: 'http://127.0.0.1:1',
      site: 'blog',
      identifier: 'id' as const,
      key: 'k',
      origin: 'http://127.0.0.1:1',
    }
    expect(await listOutside(away)).toMatchObject({
      ok: false,
      problems: [
        { code: 'comment-service-failed', message: expect.stringContaining('it cannot be reached.') },
      ],
    })
    expect(serviceOf(test.blog, 'k')).toMatchObject({ problems: [{ code: 'comment-service-unset' }] })
    await page.withRules('{ outside: { service: "https://talk.example" } }', () => {
      expect(serviceOf(test.blog, null)).toMatchObject({
        problems: [{ code: 'comment-service-key-missing' }],
      })
      return Promise.resolve()
    })
  })
})

describe('thread-split-by-address', () => {
  const find = async () => {
    const { findings, runs } = await checks.run()
    expect(runs.filter((one) => one.failed !== null)).toEqual([])
    return findings.filter((one) => /comment|thread/.test(one.rule))
  }
  it('finds pages that do not embed their thread', async () => {
    const path = 'templates/partials/comments.liquid'
    const text = await textOf(test.blog, path)
    await page.withRules('{ outside: { service: test } }', async () => {
      await saveTexts(test.blog, { [path]: text.replace('{%- if form.outside %}', '{%- if false %}') })
      expect(await find()).toMatchObject([
        { rule: 'thread-split-by-address', subject: 'not embedded', witness: { actual: 'no thread' } },
      ])
      await saveTexts(test.blog, { [path]: text })
    })
  })

  const offered = async () => {
    const [finding] = await find()
    const tried = finding && (await checks.fixesOf(finding.rule, finding.subject))
    return tried?.offered.map((one) => one.label) ?? []
  }

  it('finds nothing in the demo, with its own comments and with the service', async () => {
    expect(await find()).toEqual([])
    await page.withRules('{ outside: { service: test } }', async () => {
      expect(await find()).toEqual([])
      expect(checks.state.proven.find((one) => one.rule === 'thread-split-by-address')?.sentence).toMatch(
        /^Each post has one thread of its own/,
      )
    })
  })

  it.each([
    ['slug', ['post slug']],
    ['address', ['post address', 'post slug']],
  ])(
    'finds threads that are named by the %s, and the fix names them by the id',
    async (identifier, subjects) => {
      await page.withRules(`{ outside: { service: test, identifier: ${identifier} } }`, async () => {
        const found = await find()
        expect(found.map((one) => one.subject)).toEqual(subjects)
        expect(
          found.every((one) => one.rule === 'thread-split-by-address' && one.witness.address !== null),
        ).toBe(true)
        expect(await offered()).toEqual(['Name threads by the id of the post'])
      })
    },
  )

  it.each([
    // What a letter adds to an address is not part of it.
    ['the address of the page', '{{ request.url }}', ['post slug']],
    ['the title of the blog', '{{ blog.title }}', ['post shared']],
  ])('finds a template that names threads by %s', async (_, value, subjects) => {
    const path = 'templates/partials/comments.liquid'
    const text = await textOf(test.blog, path)
    await page.withRules('{ outside: { service: test } }', async () => {
      const saved = await saveTexts(test.blog, {
        [path]: text.replace('{{ form.outside.thread }}', value),
        'templates/pages/post.liquid': (await textOf(test.blog, 'templates/pages/post.liquid')).replace(
          "{% render 'partials/comments', post: post, comments: comments, form: form %}",
          "{% render 'partials/comments', post: post, comments: comments, form: form, request: request %}",
        ),
      })
      expect(saved.ok ? [] : saved.problems).toEqual([])
      const found = await find()
      expect(found.map((one) => one.subject)).toEqual(subjects)
      expect(found[0]?.place).toMatchObject({ document: path })
      expect(await offered()).toEqual(['Print the thread of the comment rules'])
      await saveTexts(test.blog, { [path]: text })
    })
  })
})
