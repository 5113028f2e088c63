// The rules on comments: planted faults are found by adding comments and sending forms, and their fixes remove them.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Finding } from '../../core/checks/finding.ts'
import { DocumentEntity } from '../store/entities/definition.ts'
import { COMMENT_RULES, runRulesOf } from '../testing/checks.ts'
import { applySteps, saveTexts } from '../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const find = async (rules = COMMENT_RULES): Promise<Finding[]> =>
  (await runRulesOf(test.blog, rules)).findings
const text = async (path: string) =>
  (await test.database.getRepository(DocumentEntity).findOneByOrFail({ path })).text

const FORM = 'templates/partials/comment-form.liquid'
const COMMENT = 'templates/partials/comment.liquid'
const QUERY = 'queries/comments-of-post.yaml'
type Edit = readonly [path: string, from: string | RegExp, to: string]

/** Changes documents, insisting, lets `work` look, and restores them. */
async function withEdits(edits: readonly Edit[], work: () => Promise<void>) {
  const before = new Map<string, string>()
  const after = new Map<string, string>()
  for (const [path, from, to] of edits) {
    const known = after.get(path) ?? (await text(path))
    if (!before.has(path)) before.set(path, known)
    const changed = known.replace(from, () => to)
    expect(changed, `${path}: ${String(from)}`).not.toBe(known)
    after.set(path, changed)
  }
  const saved = await saveTexts(test.blog, Object.fromEntries(after))
  expect(saved.ok ? [] : saved.problems).toEqual([])
  try {
    await work()
  } finally {
    const all = Object.fromEntries(before)
    await saveTexts(test.blog, all)
  }
}

const FAULTS: [rule: string, what: string, cause: RegExp, edits: Edit[]][] = [
  ['comments-shown-unapproved', 'no condition “shown”', /no condition “shown”/, [[QUERY, '  - shown\n', '']]],
  [
    'comments-shown-unapproved',
    'no condition “shown” in the latest comments',
    /latest-comments/,
    [['queries/latest-comments.yaml', 'where: [shown]\n', '']],
  ],
  [
    'comments-of-another-post',
    'no condition on the post',
    /does not select/,
    [[QUERY, / {2}- \{ field: post\.slug.*\n/, '']],
  ],
  [
    'comment-unescaped',
    'an attribute without quotes',
    /without quotes/,
    [[COMMENT, 'aria-label="Reply to {{ comment.name }}"', 'aria-label={{ comment.name }}']],
  ],
  [
    'comment-form-unanswered',
    'GET',
    /sent with GET/,
    [[FORM, 'id="say" method="post"', 'id="say" method="get"']],
  ],
  ['comment-form-unanswered', 'no method', /sent with GET/, [[FORM, 'id="say" method="post"', 'id="say"']]],
  [
    'comment-form-unanswered',
    'no action',
    /does not answer/,
    [[FORM, ` action="{{ 'add-comment' | url: slug: post.slug }}#say"`, '']],
  ],
  [
    'comment-form-unanswered',
    'another encoding',
    /multipart/,
    [[FORM, 'id="say" method="post"', 'id="say" method="post" enctype="multipart/form-data"']],
  ],
  [
    'comment-form-unanswered',
    'no token',
    /no token/,
    [[FORM, '<input type="hidden" name="token" value="{{ form.token }}">', '']],
  ],
  [
    'comment-form-unanswered',
    'a text area of another name',
    /“text”/,
    [[FORM, 'name="text"', 'name="body"']],
  ],
  ['comment-form-unanswered', 'a text area without a name', /“text”/, [[FORM, ' name="text"', '']]],
  ['comment-form-unanswered', 'a name field of another name', /./, [[FORM, 'name="name"', 'name="author"']]],
  [
    'comment-form-unanswered',
    'an e-mail field of another name',
    /“email”/,
    [[FORM, 'name="email"', 'name="mail"']],
  ],
  [
    'comment-form-unanswered',
    'no errors',
    /does not say/,
    [
      [FORM, '{%- if form.errors %}\n  <div class="errors"', '{%- if false %}\n  <div class="errors"'],
      [FORM, /\{% if form\.errors\.text %\}<span.*\n/, ''],
    ],
  ],
  [
    'comment-form-unanswered',
    'the text is gone',
    /is gone/,
    [
      [
        FORM,
        '>{{ form.values.text }}</textarea>\n    {% if form.errors',
        '></textarea>\n    {% if form.errors',
      ],
    ],
  ],
  [
    'comment-form-unanswered',
    'the name is gone',
    /is gone/,
    [[FORM, 'value="{{ form.values.name }}"', 'value=""']],
  ],
  [
    'comment-action-without-page',
    'no form',
    /no template has a form/,
    [[FORM, /[\s\S]*/, '<p>Comments by post only.</p>\n']],
  ],
  [
    'no-rate-limit',
    'no limit',
    /do not limit/,
    [['blog.yaml', /rate: .*/, 'rate: { per-address: 1000, per-post: 10000, within: 10m }']],
  ],
]

it('the demo has no findings, keeps nothing, and every rule says what it has tested', async () => {
  const count = async () =>
    await test.database.query<unknown[]>(
      `SELECT (SELECT count(*)::int FROM comment) AS comments, (SELECT count(*)::int FROM comment_rate) AS rates,
         (SELECT max(position) FROM change_log) AS log, (SELECT json_agg(t ORDER BY post_id) FROM comment_tally t) AS tally`,
    )
  const before = await count()
  const { findings, proven } = await runRulesOf(test.blog, COMMENT_RULES)
  expect(findings).toEqual([])
  expect(proven.map((one) => one.rule)).toEqual(COMMENT_RULES)
  expect(await count()).toEqual(before)
})

describe.each(FAULTS)('%s: %s', (rule, _, cause, edits) => {
  it('is found once, with a cause, and a fix removes it without another finding', async () => {
    await withEdits(edits, async () => {
      const findings = await find()
      expect(findings.map((one) => one.rule)).toEqual([rule])
      const [finding] = findings
      expect(finding?.cause).toMatch(cause)
      expect(finding?.witness.address).toMatch(/^\//)
      expect(finding?.fixes.length).toBeGreaterThan(0)
      const known = new Map<string, string>()
      for (const step of finding?.fixes[0]?.steps ?? [])
        if ('document' in step && typeof step.document === 'string')
          known.set(step.document, await text(step.document))
      const applied = await applySteps(test.blog, finding?.fixes[0]?.steps ?? [])
      expect(applied.ok ? [] : applied.problems).toEqual([])
      const left = await find()
      await saveTexts(test.blog, Object.fromEntries(known))
      expect(left.map((one) => `${one.title}: ${one.cause}`).join('\n')).toBe('')
    })
  })
})

it('the page that follows does not show the comment: going on to the post’s page is offered', async () => {
  const added = `- name: thanks
  path: /thanks/:slug
  params: { slug: slug }
  data:
    post: post-by-slug
  template: pages/thanks

- name: category
  path: /category/:category
`
  const template = {
    'templates/pages/thanks.liquid': '<!doctype html><title>Thanks</title><p>Thank you.</p>\n',
  }
  await saveTexts(test.blog, template)
  await withEdits(
    [
      ['routes.yaml', '- name: category\n  path: /category/:category\n', added],
      ['routes.yaml', '  then: post\n', '  then: thanks\n'],
    ],
    async () => {
      const [finding] = await find(['comment-action-without-page'])
      expect(finding?.rule).toBe('comment-action-without-page')
      expect(finding?.fixes.map((one) => one.label)).toEqual(['Go on to “post”'])
      const applied = await applySteps(test.blog, finding?.fixes[0]?.steps ?? [])
      expect(applied.ok ? [] : applied.problems).toEqual([])
      expect(await find()).toEqual([])
    },
  )
})

it('a form that is sent elsewhere is named, and not another form of the page', async () => {
  const action = 'action="{{ \'add-comment\' | url: slug: post.slug }}#say"'
  await withEdits([[FORM, action, 'action="/comments/{{ post.slug }}"']], async () => {
    const [finding] = await find(['form-wrong'])
    expect(finding?.place).toEqual({ document: FORM, line: 2 })
  })
})
