// The rules on templates: a faulty template triggers each, with a page that readers request, and a fix that works.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Finding } from '../../core/checks/finding.ts'
import { RULES } from '../../core/checks/rules/all.ts'
import { DocumentEntity } from '../store/entities/definition.ts'
import { applySteps, saveTexts } from '../testing/edits.ts'
import { runRulesOf } from '../testing/checks.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const text = async (path: string) =>
  (await test.database.getRepository(DocumentEntity).findOneByOrFail({ path })).text

async function save(changes: Record<string, string | null>) {
  const saved = await saveTexts(test.blog, changes)
  if (!saved.ok) throw new Error(JSON.stringify(saved))
}

/** Replaces a part of a document, works, and restores it. */
async function withPlanted(
  path: string,
  [part, by]: readonly [string, string],
  work: () => Promise<void>,
): Promise<void> {
  const before = await text(path)
  expect(before).toContain(part)
  await save({ [path]: before.replace(part, () => by) })
  try {
    await work()
  } finally {
    await save({ [path]: before })
  }
}

const TYPE_RULES = RULES.filter(({ id }) => /^(template-|markup-|data-unread)/.test(id)).map((one) => one.id)
const find = async (): Promise<Finding[]> => (await runRulesOf(test.blog, TYPE_RULES)).findings
/** Without what an empty value causes in the markup. */
const findInTemplates = async (): Promise<Finding[]> =>
  (await find()).filter((one) => !one.rule.startsWith('markup-'))
const CARD = 'templates/partials/card.liquid'
const LISTING = 'templates/pages/listing.liquid'

it('the demo has no findings, and all of its templates are counted', async () => {
  const { findings, proven } = await runRulesOf(test.blog, TYPE_RULES)
  expect(findings).toEqual([])
  expect(proven.map((one) => one.rule)).toEqual(expect.arrayContaining(TYPE_RULES))
  expect(new Set(proven.map((one) => one.count.replace(/\d+/g, 'N')))).toEqual(
    new Set(['N templates', 'N data entries', 'N of N pages']),
  )
})

describe('a fault is found on a page that shows it, and mended', () => {
  it.each<[string, string, string, string, string]>([
    ['template-name-unknown', CARD, '{{ post.title }}', '{{ psot.title }}', 'partials/card psot'],
    ['template-field-unknown', CARD, '{{ post.title }}', '{{ post.titel }}', 'partials/card post.titel'],
    [
      'template-list-and-row',
      LISTING,
      '{% block main %}',
      '{% block main %}{% for one in posts %}{{ one.title }}{% endfor %}',
      'pages/listing posts',
    ],
    [
      'template-date-unformatted',
      CARD,
      '{{ post.title }}',
      '{{ post.publishedAt }}',
      'partials/card post.publishedAt',
    ],
    ['template-block-unknown', LISTING, '{% block main %}', '{% block mian %}', 'pages/listing mian'],
  ])('%s', async (rule, path, part, by, subject) => {
    await withPlanted(path, [part, by], async () => {
      const found = await findInTemplates()
      expect(found.map((one) => [one.rule, one.subject])).toEqual([[rule, subject]])
      const [finding] = found
      const page = (await test.read(finding?.witness.address ?? 'none')).text
      const applied = await applySteps(test.blog, finding?.fixes[0]?.steps ?? [])
      expect(applied).toMatchObject({ ok: true })
      expect(await find()).toEqual([])
      // The page that was named did show it.
      expect((await test.read(finding?.witness.address ?? 'none')).text).not.toBe(page)
    })
  })
})

describe('a fault is found', () => {
  it.each<[string, string, string, string, string]>([
    [
      'template-field-not-fetched',
      CARD,
      '{{ post.title }}',
      '{{ post.title }}{{ post.html }}',
      'partials/card post.html',
    ],
    [
      'template-value-empty',
      'templates/pages/post.liquid',
      '<div class="text">',
      '<img src="/media/moth.svg" alt=""><a href="{{ post.image.name }}">x</a><div class="text">',
      'pages/post post.image.name',
    ],
    [
      'template-argument-unread',
      'templates/pages/post.liquid',
      "{% render 'partials/comments', post: post,",
      "{% render 'partials/comments', order: 1, post: post,",
      'pages/post order',
    ],
    [
      'data-unread',
      'routes.yaml',
      '    latest: latest-posts\n',
      '    latest: latest-posts\n    newest: latest-posts\n',
      'home newest',
    ],
  ])('%s', async (rule, path, part, by, subject) => {
    await withPlanted(path, [part, by], async () => {
      expect((await findInTemplates()).map((one) => [one.rule, one.subject])).toEqual([[rule, subject]])
    })
  })

  it.each<[string, string, string, string, string]>([
    ['markup-invalid', 'templates/layouts/base.liquid', '<html lang="{{ blog.language }}"', '<html', 'lang'],
    ['markup-invalid', CARD, '{{ post.title }}', '{{ post.title }}<i id="same"></i>', 'Duplicate ID'],
    ['markup-invalid', CARD, '{{ post.title }}', '{{ post.title }}<div>x</div>', 'div'],
    ['markup-unnamed', CARD, '{{ post.title }}', '{{ post.title }}<img src="/media/moth.svg">', 'alt'],
    ['markup-unnamed', CARD, '{{ post.title }}', '', 'text'],
    [
      'markup-unnamed',
      'templates/pages/post.liquid',
      '<h1>{{ post.title }}</h1>',
      '<h4>{{ post.title }}</h4>',
      'h1',
    ],
    ['markup-unnamed', 'templates/pages/search.liquid', '<label', '<span', 'label'],
  ])('%s in %s with “%s” as “%s”', async (rule, path, part, by, message) => {
    await withPlanted(path, [part, by], async () => {
      const found = await find()
      expect(found.map((one) => one.rule)).toContain(rule)
      const finding = found.find((one) => one.rule === rule && one.witness.text.includes(message))
      expect(finding).toBeDefined()
      const { text: body } = await test.read(finding?.witness.address ?? 'none')
      expect(body).toContain(finding?.witness.actual)
      expect(finding?.place?.document).toBe(path)
    })
  })

  it('template-markup-unnested, also in a branch that no page shows, and without what follows from it', async () => {
    await withPlanted(CARD, ['{{ post.title }}', '<b>{{ post.title }}'], async () => {
      const found = await find()
      expect(found.map((one) => [one.rule, one.subject])).toEqual([
        ['template-markup-unnested', 'partials/card <b>'],
      ])
    })
    const empty = '<p class="empty">Nothing has been published yet.</p>'
    await withPlanted(LISTING, [empty, `<section>${empty}`], async () => {
      const found = await find()
      expect(found.map((one) => [one.rule, one.subject, one.place?.line])).toEqual([
        ['template-markup-unnested', 'pages/listing <section>', expect.any(Number)],
      ])
    })
  })

  it('template-unused', async () => {
    const path = 'templates/partials/left-over.liquid'
    await save({ [path]: 'nothing' })
    const [finding] = await find()
    expect([finding?.rule, finding?.subject]).toEqual(['template-unused', 'partials/left-over'])
    expect(await applySteps(test.blog, finding?.fixes[0]?.steps ?? [])).toMatchObject({ ok: true })
    expect(await find()).toEqual([])
  })
})
