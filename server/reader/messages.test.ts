// The texts that the blog itself gives readers: in its language, in its own words, and in the template for errors.
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import { placeholders, sayIn } from '../../core/messages/say.ts'
import { MESSAGE_NAMES, TEXTS } from '../../core/messages/texts.ts'
import { runRulesOf } from '../testing/checks.ts'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { saveTexts, textOf } from '../testing/edits.ts'
import { formRequest } from '../testing/requests.ts'
import { answer } from './answer.ts'
import { internalRequest, type InternalOptions } from './request.ts'

let test: TestBlog
let settings: string
beforeAll(async () => {
  test = await testBlog()
  settings = await textOf(test.blog, 'blog.yaml')
})
afterAll(() => test.close())

const get = (target: string, options: InternalOptions = {}) =>
  answer(test.blog, internalRequest(target, options))
const german = () =>
  settings.replace('language: en-GB', 'language: de').replace(/^not-found:\n(?: .*\n)+/m, '')
async function save(texts: Record<string, string | null>) {
  const saved = await saveTexts(test.blog, texts)
  return saved.ok ? [] : saved.problems
}
const ERROR =
  '{% assign x = now %}<h1>{{ error.status }} {{ error.title }}</h1><p>{{ error.text }}</p>{{ blog.title }}'

describe('every message', () => {
  it.each(Object.keys(TEXTS))('has a text in “%s”, with the same values', (language) => {
    for (const name of MESSAGE_NAMES) {
      const text = TEXTS[language]?.[name] ?? ''
      expect(text).not.toBe('')
      expect([name, placeholders(text).sort()]).toEqual([
        name,
        placeholders(TEXTS['en']?.[name] ?? '').sort(),
      ])
    }
  })
  it('is in docs/definition.md', async () => {
    const { readFile } = await import('node:fs/promises')
    const docs = await readFile(new URL('../../docs/definition.md', import.meta.url), 'utf8')
    expect(MESSAGE_NAMES.filter((name) => !docs.includes(`\`${name}\``))).toEqual([])
  })
  it('is said with its values; a value that is not given stays', () => {
    expect(sayIn('de-AT')('comment-name-too-long', { length: 90, maximum: 80 })).toBe(
      'Der Name hat 90 Zeichen; erlaubt sind höchstens 80.',
    )
    expect(sayIn('en', { 'not-found-text': 'No {x}, {x}.' })('not-found-text')).toBe('No {x}, {x}.')
    // ECMA-402: the relative time of now, in words.
    expect(sayIn('fr')('just-now')).toBe(
      new Intl.RelativeTimeFormat('fr', { numeric: 'auto' }).format(0, 'second'),
    )
    expect(sayIn('fr')('not-found-title')).toBe('Not found')
  })
})

describe('a German blog', () => {
  it('gives readers German error pages, ages and errors of forms', async () => {
    expect(await save({ 'blog.yaml': german() })).toEqual([])
    const missing = await get('/nowhere')
    expect([
      missing.status,
      missing.body.includes('lang="de"'),
      missing.body.includes('Nicht gefunden'),
    ]).toEqual([404, true, true])
    expect((await get('/posts', { method: 'DELETE' })).body).toContain('Diese Adresse beantwortet nur GET')
    expect((await get('/%zz')).body).toContain('Ungültige Adresse')
    expect(
      (await answer(test.blog, formRequest('/posts/moth/comments', { name: '', text: '' }))).body,
    ).toContain('Der Kommentar ist leer.')
    expect((await get('/posts/moth')).body).toMatch(/vor \d+ (Tag|Woche|Monat|Jahr|Stunde)/)
  })
  it('says what the settings say instead', async () => {
    const own = `${german()}\nmessages:\n  not-found-title: Hoppla\n  comment-text-missing: Schreiben Sie etwas.\n`
    expect(await save({ 'blog.yaml': own })).toEqual([])
    expect((await get('/nowhere')).body).toContain('<h1>Hoppla</h1>')
    expect(
      (await answer(test.blog, formRequest('/posts/moth/comments', { name: 'A', text: '' }))).body,
    ).toContain('Schreiben Sie etwas.')
    await save({ 'blog.yaml': settings })
  })
  it.each([
    ['not-found-titel: x', 'message-unknown', 'not-found-title'],
    ['comment-name-too-long: "{count} letters"', 'message-value-unknown', '{length}, {maximum}'],
  ])('cannot save the message “%s”', async (message, code, hint) => {
    const found = await save({ 'blog.yaml': `${settings}\nmessages:\n  ${message}\n` })
    expect(found).toMatchObject([{ code, file: 'blog.yaml', line: expect.any(Number) as number }])
    expect(found[0]?.hint).toContain(hint)
  })
})

describe('the template for errors', () => {
  const withError = () => `${settings}\nerror: pages/error\n`
  it('shows errors that have no page of their own', async () => {
    expect(await save({ 'blog.yaml': withError(), 'templates/pages/error.liquid': ERROR })).toEqual([])
    const { status, body, headers } = await get('/posts', { method: 'DELETE' })
    expect([status, headers['allow']]).toEqual([405, 'GET, HEAD, OPTIONS'])
    expect(body).toBe(
      '<h1>405 Method not allowed</h1><p>This address only answers GET, HEAD, OPTIONS.</p>Cobble Lane Repair Café',
    )
    // The definition’s own page for addresses that are not found comes first.
    expect((await get('/nowhere')).body).toContain('<h1>Page not found</h1>')
  })
  it('gives way to the plain page if it fails', async () => {
    const failing = `${ERROR}{% if error.status == 405 %}{{ blog.title | raw }}{% endif %}`
    expect(await save({ 'templates/pages/error.liquid': failing })).toEqual([])
    const { status, body } = await get('/posts', { method: 'DELETE' })
    expect([status, body.includes('<!doctype html>'), body.includes('Method not allowed')]).toEqual([
      405,
      true,
      true,
    ])
  })
  it('that fails is not rendered again, and does not keep an author from saving something else', async () => {
    const runaway = `${ERROR}{% for a in (1..9000) %}{% for b in (1..9000) %}{% assign c = b %}{% endfor %}{% endfor %}`
    const saved = await saveTexts(test.blog, { 'templates/pages/error.liquid': runaway }, { insist: true })
    expect(saved.ok).toBe(true)
    expect(await save({ 'blog.yaml': withError().replace('title:', 'title: The') })).toEqual([])
    const render = vi.spyOn(test.blog.site.definition.templates, 'render')
    for (let times = 0; times < 3; times++)
      expect((await get('/posts', { method: 'DELETE' })).body).toContain('<h1>Method not allowed</h1>')
    expect(render).toHaveBeenCalledTimes(1)
    render.mockRestore()
    const { findings } = await runRulesOf(test.blog, ['page-fails'])
    expect(findings).toMatchObject([
      {
        title: 'The error page pages/error answers 500',
        place: { document: 'templates/pages/error.liquid' },
        witness: { address: null },
      },
    ])
    await save({ 'blog.yaml': withError(), 'templates/pages/error.liquid': ERROR })
  })
  it.each([
    ['navigation', `${ERROR}{% for one in navigation %}{{ one.title }}{% endfor %}`, 'error-template-reads'],
    ['a failing filter', `${ERROR}{{ blog.title | raw }}`, 'address-would-fail'],
  ])('cannot be saved with %s', async (_, text, code) => {
    const found = await save({ 'templates/pages/error.liquid': text })
    expect(found.map((one) => one.code)).toEqual([code])
  })
  it('must exist', async () => {
    const found = await save({ 'blog.yaml': `${settings}\nerror: pages/eror\n` })
    expect(found).toMatchObject([{ code: 'template-unknown', file: 'blog.yaml' }])
    await save({ 'blog.yaml': settings, 'templates/pages/error.liquid': null })
  })
})
