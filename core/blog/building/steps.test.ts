// The steps in which a blog is built: each gives a valid definition, adapts to what is there, and leaves the author's work.
import { describe, expect, it } from 'vitest'
import { blank, demo } from '../../testing/demo.ts'
import { analysedTemplates } from '../data-types.ts'
import { readDefinition } from '../read.ts'
import { contrastsOf, ENOUGH, lowestContrast } from '../../styles/tokens.ts'
import { featuresOf } from './features.ts'
import { stylesheetOf } from './looks.ts'
import {
  DRAFTED_STEPS,
  FIRST_STEPS,
  FURTHER_STEPS,
  type DraftedStep,
  type Look,
} from '../../shapes/building.ts'
import { draftStep } from './steps.ts'

type Documents = ReadonlyMap<string, string>

/** What the steps start from: the demo's comments and stylesheet. */
const parts = new Map([...demo].filter(([path]) => /comment|blog\.css/.test(path)))

function definitionOf(documents: Documents) {
  const read = readDefinition(documents)
  if (!read.ok) throw new Error(JSON.stringify(read.problems, null, 1))
  return read.value
}

function draft(documents: Documents, step: DraftedStep, look: Look = 'bench') {
  return draftStep(step, { definition: definitionOf(documents), documents, parts, blank, look })
}

function apply(documents: Documents, step: DraftedStep, look: Look = 'bench') {
  const drafted = draft(documents, step, look)
  if (!drafted.ok) throw new Error(JSON.stringify(drafted.problems))
  const { changes, kept } = drafted.value
  const after = new Map([...documents, ...changes.map(({ document, text }) => [document, text] as const)])
  return { documents: after, changed: changes.map((one) => one.document), kept }
}

const after = (steps: readonly DraftedStep[], documents: Documents = blank) =>
  steps.reduce((known, step) => apply(known, step).documents, documents)

/** Steps that cannot be the first. */
const NEED_OTHERS: readonly DraftedStep[] = [
  ...(['pages', 'categories', 'comments', 'cache'] as const),
  ...FURTHER_STEPS,
]

it.each<Look>(['bench', 'ledger'])(
  'the look “%s” has enough contrast for text in both schemes (WCAG 2.2, 1.4.3)',
  (look) => {
    const css = stylesheetOf(look, demo.get('assets/blog.css') ?? '')
    expect(contrastsOf(css).length).toBeGreaterThan(4)
    expect(lowestContrast(css)).toBeGreaterThan(ENOUGH)
  },
)

describe('the steps from a new blog', () => {
  it.each<Look>(['bench', 'ledger'])(
    'give a valid definition without faults each, in the look %s',
    (look) => {
      let documents: Documents = blank
      for (const step of DRAFTED_STEPS) {
        documents = apply(documents, step, look).documents
        const { faults } = analysedTemplates(definitionOf(documents))
        expect([step, faults.map((one) => `${one.template}:${one.place.line} ${one.message}`)]).toEqual([
          step,
          [],
        ])
      }
      const has = featuresOf(definitionOf(documents), documents)
      expect(Object.entries(has).flatMap(([name, one]) => (one === undefined ? [name] : []))).toEqual([])
      expect(has.list?.isPaged).toBe(true)
    },
  )

  it('give the same blog in any order that their needs allow', () => {
    const orders = [
      [
        ...['list', 'pages', 'categories', 'layout', 'home', 'post', 'comments', 'published'],
        ...FURTHER_STEPS,
      ],
      [
        'post',
        'related',
        'search',
        'comments',
        'list',
        'tags',
        'categories',
        'neighbours',
        'authors',
        'home',
        'popular',
        'archive',
        'pages',
        'layout',
        'numbered',
        'aside',
      ],
      [
        'home',
        'post',
        'popular',
        'list',
        'archive',
        'categories',
        'authors',
        'comments',
        'layout',
        'related',
        'neighbours',
        'pages',
        'search',
        'aside',
        'numbered',
        'tags',
      ],
    ] as DraftedStep[][]
    const built = orders.map((order) => after(order))
    const texts = (documents: Documents) =>
      Object.fromEntries([...documents].filter(([path]) => path.startsWith('templates/')).sort())
    for (const one of built) expect(texts(one)).toEqual(texts(built[0] ?? new Map()))
  })

  it('change nothing the second time', () => {
    const built = after(DRAFTED_STEPS)
    for (const step of DRAFTED_STEPS) expect([step, apply(built, step).changed]).toEqual([step, []])
  })

  it.each(NEED_OTHERS)('say what “%s” needs', (step) => {
    const drafted = draft(blank, step)
    expect(drafted.ok ? [] : drafted.problems.map((one) => one.code)).toEqual(['step-needs'])
  })
})

describe('the author’s work', () => {
  const changed = (documents: Documents, path: string, change: (text: string) => string): Documents => {
    const text = documents.get(path) ?? ''
    expect(change(text)).not.toBe(text)
    return new Map([...documents, [path, change(text)]])
  }
  const CARD = 'templates/partials/card.liquid'

  it('stays: a card that was changed gets the link to the post, and nothing else', () => {
    const mine = changed(after(['layout', 'list']), CARD, (text) =>
      text.replace('<p class="meta">', '<p class="meta mine">'),
    )
    const { documents } = apply(mine, 'post')
    expect(documents.get(CARD)).toBe(
      mine
        .get(CARD)
        ?.replace(
          '<h2>{{ post.title }}</h2>',
          `<h2><a href="{{ 'post' | url: slug: post.slug }}">{{ post.title }}</a></h2>`,
        ),
    )
  })
  it('stays: a layout and a stylesheet that were changed are named, and not replaced', () => {
    const base = 'templates/layouts/base.liquid'
    const mine = changed(
      changed(blank, base, (text) => text.replace('<body>', '<body class="mine">')),
      'assets/blog.css',
      (css) => `${css}\n.mine {}\n`,
    )
    expect(apply(mine, 'layout')).toMatchObject({ changed: [], kept: [base, 'assets/blog.css'] })
  })
  it('stays: a list that was changed gets a pager', () => {
    const listing = 'templates/pages/listing.liquid'
    const mine = changed(after(['list']), listing, (text) => text.replace('<main', '<main class="mine"'))
    const { documents } = apply(mine, 'pages')
    const text = documents.get(listing) ?? ''
    expect(text).toContain('<main class="mine"')
    expect(text).toContain('in posts.items %}')
    expect(text).toContain("{% render 'partials/pager', paged: posts %}")
    expect(analysedTemplates(definitionOf(documents)).faults).toEqual([])
  })
  it('stays: routes and queries whose names the steps would use', () => {
    const mine = new Map([
      ...blank,
      [
        'routes.yaml',
        `${blank.get('routes.yaml') ?? ''}- name: posts\n  path: /all\n  redirect: { to: / }\n`,
      ],
      ['queries/all-posts.yaml', 'from: tags\ntake: all\n'],
    ])
    const { documents } = apply(mine, 'list')
    expect(documents.get('queries/all-posts.yaml')).toBe('from: tags\ntake: all\n')
    expect(featuresOf(definitionOf(documents), documents).list).toMatchObject({
      route: { name: 'posts-2', path: '/posts-2' },
      query: 'all-posts-2',
    })
  })
  it('is adapted to: other names of routes, parameters and data', () => {
    const mine = new Map([
      ...blank,
      [
        'routes.yaml',
        `${blank.get('routes.yaml') ?? ''}- name: story\n  path: /stories/:which\n  params: { which: slug }\n  data: { story: one-story }\n  template: pages/story\n`,
      ],
      [
        'queries/one-story.yaml',
        'from: posts\nwith: [category, author]\nwhere:\n  - published\n  - { field: slug, is: equal, to: ":which" }\ntake: one\nempty: not-found\n',
      ],
      [
        'templates/pages/story.liquid',
        '<!doctype html>\n<main>\n<article>{{ story.title }}</article>\n</main>\n',
      ],
    ])
    const { documents } = apply(apply(mine, 'list').documents, 'comments')
    expect(documents.get(CARD)).toContain(`{{ 'story' | url: which: post.slug }}`)
    expect(featuresOf(definitionOf(documents), documents).comments?.path).toBe('/stories/:which/comments')
    expect(analysedTemplates(definitionOf(documents)).faults).toEqual([])
    const further = after(['layout', 'tags', 'related', 'neighbours'], documents)
    const story = further.get('templates/pages/story.liquid') ?? ''
    expect(story).toContain('{% for tag in story.tags %}')
    expect(story).toContain(`{% for other in related %}`)
    expect(story).toContain(`href="{{ 'story' | url: which: older.slug }}"`)
    expect(further.get('routes.yaml')).toContain('except: story.slug')
    expect(further.get('queries/one-story.yaml')).toContain('tags')
    expect(
      analysedTemplates(definitionOf(further)).faults.map(
        (one) => `${one.template}:${one.place.line} ${one.message}`,
      ),
    ).toEqual([])
  })
})

describe('the demo, a grown blog with templates of its own', () => {
  it('has everything that the first steps add', () => {
    for (const step of FIRST_STEPS) expect([step, apply(demo, step).changed]).toEqual([step, []])
  })
  it('lacks three of the further steps, which add to its templates', () => {
    expect(FURTHER_STEPS.filter((step) => apply(demo, step).changed.length > 0)).toEqual([
      'neighbours',
      'popular',
      'numbered',
    ])
    const documents = after(['neighbours', 'popular', 'numbered'], demo)
    expect(analysedTemplates(definitionOf(documents)).faults).toEqual([])
    const post = documents.get('templates/pages/post.liquid') ?? ''
    expect(post).toContain('<nav class="pager" aria-label="Other posts">')
    expect(documents.get('templates/pages/home.liquid')).toContain('{% for other in popular %}')
    expect(post).toContain('href="{{ \'post-by-number\' | url: number: post.id }}"')
    expect(documents.get('routes.yaml')).toContain('to: /posts/:post.slug')
    expect(
      post
        .replace(/ {4}<p class="meta">Short address.*\n/, '')
        .replace(/ {4}\{% if older or newer %\}[\s\S]*?<\/nav>\n {4}\{% endif %\}\n/, ''),
    ).toBe(demo.get('templates/pages/post.liquid'))
    // Shared data stays in blog.yaml.
    expect(documents.get('routes.yaml')).not.toContain('category-counts')
    expect(featuresOf(definitionOf(documents), documents)).toMatchObject({
      neighbours: { older: 'older', newer: 'newer' },
      popular: 'popular',
    })
    for (const step of FURTHER_STEPS) expect([step, apply(documents, step).changed]).toEqual([step, []])
  })
})

describe('the aside', () => {
  const layout = 'templates/layouts/base.liquid'
  it('shows what the blog has, from shared data', () => {
    const some = after(['layout', 'list', 'post', 'categories', 'aside'])
    expect(some.get('blog.yaml')).toMatch(/^data:\n {2}categories: category-counts\n(?! )/m)
    expect(some.get(layout)).toContain("{% render 'partials/aside', categories: categories %}")
    const all = after(['layout', 'list', 'post', 'categories', 'comments', 'archive', 'aside'])
    expect(all.get(layout)).toContain(
      'categories: categories, months: months, latestComments: latestComments %}',
    )
    expect(analysedTemplates(definitionOf(all)).faults).toEqual([])
  })
  it('leaves shared data of the same name, and goes before the footer of a layout that its author has changed', () => {
    const before = new Map(after(['layout', 'list', 'post', 'categories']))
    before.set('queries/authors.yaml', 'from: authors\norder: [name]\ntake: all\n')
    before.set('blog.yaml', `${before.get('blog.yaml') ?? ''}data: { categories: authors } # mine\n`)
    before.set(layout, (before.get(layout) ?? '').replace('<footer class="foot">', '<footer class="mine">'))
    const { documents } = apply(before, 'aside')
    const text = documents.get(layout) ?? ''
    expect(text).toContain(
      '{% render \'partials/aside\', categories2: categories2 %}\n  <footer class="mine">',
    )
    expect(documents.get('blog.yaml')).toMatch(/categories: authors.*categories2: category-counts/)
    expect(analysedTemplates(definitionOf(documents)).faults).toEqual([])
    expect(apply(documents, 'aside').changed).toEqual([])
  })
})
