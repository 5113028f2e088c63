// Reading a definition: the demo is valid, and each fault is reported with its file and line.
import { describe, expect, it } from 'vitest'
import { buildPath } from '../routing/addresses/build.ts'
import { matchRoute } from '../routing/addresses/match.ts'
import { RouteTable } from '../routing/addresses/table.ts'
import { demo, problemsOf as problems, withDocument } from '../testing/demo.ts'
import { readDefinition } from './read.ts'

const SETTINGS_LINES = (demo.get('blog.yaml') ?? '').split('\n').length - 1

/** Properties of every JavaScript object must not count as declared by the author. */
describe.each(['constructor', 'toString', 'hasOwnProperty'])('the name “%s”', (name) => {
  it('is reported like any other unknown name', () => {
    const query = (more: string) =>
      problems(
        withDocument(
          'queries/all-posts.yaml',
          (text) => `${text.replace(/^(with|where|order): .*\n/gm, '')}${more}\n`,
        ),
      )
    expect(query(`with: [${name}]`)).toMatchObject([{ path: '/with/0', code: 'query-relation-unknown' }])
    expect(query(`order: [${name}]`)).toMatchObject([{ code: 'query-field-unknown' }])
    expect(query(`where: [{ field: ${name}, is: set }]`)).toMatchObject([{ code: 'query-field-unknown' }])
    expect(query(`where: [{ field: category.${name}, is: set }]`)).toMatchObject([
      { code: 'query-field-unknown' },
    ])
    expect(query(`where: [{ field: slug, is: equal, to: ':${name}' }]`)).toMatchObject([
      {
        file: 'routes.yaml',
        path: '/1/data/posts',
        code: 'data-parameter-missing',
      },
    ])
    expect(
      problems(withDocument('routes.yaml', (text) => text.replace('except: post.slug', `except: ${name}`))),
    ).toMatchObject([{ code: 'data-value-unknown' }])
  })
  it('can be the name of a parameter', () => {
    const result = readDefinition(
      withDocument(
        'routes.yaml',
        (text) => `${text}\n- name: odd\n  path: /odd/:${name}\n  template: pages/page\n`,
      ),
    )
    if (!result.ok) throw new Error(JSON.stringify(result.problems))
    const odd = result.value.routes.at(-1)
    if (!odd) throw new Error('no route')
    expect(buildPath(odd, {}).ok).toBe(false)
    expect(buildPath(odd, { [name]: 'x' })).toEqual({ ok: true, path: '/odd/x' })
    expect(matchRoute(new RouteTable([odd]), 'GET', '/odd/x')).toMatchObject({
      parameters: [{ name, type: 'text', value: 'x' }],
    })
  })
})

describe('readDefinition', () => {
  it('reads the demo', () => {
    expect(problems(demo)).toEqual([])
  })

  it.each<[string, string, (text: string) => string, object]>([
    [
      'an unknown key',
      'blog.yaml',
      (text) => `${text}colour: red\n`,
      { line: SETTINGS_LINES + 1, column: 1, code: 'value-key-unknown' },
    ],
    ['broken YAML', 'blog.yaml', () => 'title: "open\n', { line: 1, code: 'yaml-not-closed' }],
    [
      'a key twice',
      'blog.yaml',
      (text) => `${text}title: again\n`,
      { line: SETTINGS_LINES + 1, code: 'yaml-key-repeated' },
    ],
    [
      'a wrong zone',
      'blog.yaml',
      (text) => text.replace('Europe/London', 'Europe/Cobble'),
      { line: 4, code: 'settings-time-zone-unknown' },
    ],
    [
      'an embed without a place',
      'blog.yaml',
      (text) =>
        `${text}embeds:\n  - { name: Film, address: 'https://films.example/watch', frame: 'https://films.example/frame' }\n`,
      { path: '/embeds/0/address', code: 'embed-without-place' },
    ],
    [
      'a frame with a value that the address does not have',
      'blog.yaml',
      (text) =>
        `${text}embeds:\n  - { name: Film, address: 'https://films.example/watch/:film', frame: 'https://films.example/frame/:id' }\n`,
      { path: '/embeds/0/frame', code: 'embed-value-unknown' },
    ],
    [
      'a frame of any site',
      'blog.yaml',
      (text) =>
        `${text}embeds:\n  - { name: Any, address: 'https://*/:page', frame: 'https://*; script-src */:page' }\n`,
      { path: '/embeds/0/frame', code: 'value-form' },
    ],
    [
      'a route name twice',
      'routes.yaml',
      (text) => text.replace('name: posts', 'name: home'),
      { path: '/1/name', code: 'route-name-repeated' },
    ],
    [
      'a pattern that does not compile',
      'routes.yaml',
      (text) => text.replace('path: /posts\n', "path: '/posts/:'\n"),
      { line: 10, code: 'route-pattern-invalid' },
    ],
    [
      'an unknown parameter type',
      'routes.yaml',
      (text) => text.replace('{ slug: slug }', '{ slug: slugg }'),
      { path: '/2/params/slug', code: 'value-not-allowed' },
    ],
    [
      'an unknown template',
      'routes.yaml',
      (text) => text.replace('pages/home', 'pages/hime'),
      { code: 'template-unknown' },
    ],
    [
      'an unknown query',
      'routes.yaml',
      (text) => text.replace('latest: latest-posts', 'latest: latest-post'),
      { code: 'data-query-unknown' },
    ],
    [
      'a parameter that the address lacks',
      'routes.yaml',
      (text) => text.replace('posts: all-posts', 'posts: posts-in-category'),
      { code: 'data-parameter-missing' },
    ],
    [
      'a route without an answer',
      'routes.yaml',
      (text) => text.replace('  template: pages/home\n', ''),
      { code: 'route-answers-nothing' },
    ],
    [
      'a comment action without a post',
      'routes.yaml',
      (text) => text.replace('  data:\n    post: post-by-slug\n  action', '  action'),
      { code: 'route-comment-needs-post' },
    ],
    [
      'an unknown field',
      'queries/all-posts.yaml',
      (text) => text.replace('-publishedAt', '-published'),
      { line: 4, code: 'query-field-unknown' },
    ],
    [
      'an unknown condition',
      'queries/all-posts.yaml',
      (text) => text.replace('[published]', '[visible]'),
      { line: 3, code: 'query-condition-unknown' },
    ],
    [
      'an unknown relation',
      'queries/all-posts.yaml',
      (text) => text.replace('category, author', 'categorie, author'),
      { line: 2, code: 'query-relation-unknown' },
    ],
    [
      'pages without a size',
      'queries/all-posts.yaml',
      (text) => text.replace(/pages: .*/, ''),
      { code: 'query-pages-missing' },
    ],
    [
      'a value of the wrong type',
      'queries/latest-posts.yaml',
      (text) => text.replace('where: [published]', 'where: [{ field: wordCount, is: more, to: many }]'),
      { code: 'query-value-type' },
    ],
    [
      'a parameter of the wrong type',
      'queries/post-by-slug.yaml',
      (text) => text.replace('field: slug,', 'field: wordCount,'),
      {
        file: 'routes.yaml',
        code: 'data-parameter-type',
      },
    ],
    [
      'a number compared with text',
      'routes.yaml',
      (text) => text.replace('{ slug: slug }', '{ slug: integer }'),
      {
        path: '/2/data/post',
        code: 'data-parameter-type',
      },
    ],
    [
      'a type for a parameter that the path does not have',
      'routes.yaml',
      (text) => text.replace('{ slug: slug }', '{ slugs: slug }'),
      { path: '/2/params/slugs', line: 19, code: 'route-type-unused' },
    ],
    [
      'a redirect to an invalid address',
      'routes.yaml',
      (text) => `- { name: away, path: /away, redirect: { to: //evil.example } }\n${text}`,
      {
        path: '/0/redirect/to',
        line: 1,
        code: 'value-form',
      },
    ],
    [
      'a value that contains itself',
      'blog.yaml',
      (text) => text.replace('title: Cobble Lane Repair Café', 'title: &loop [*loop]'),
      { line: 1, code: 'value-type' },
    ],
    [
      'a tag that is not closed',
      'templates/pages/home.liquid',
      (text) => text.replace('{%- endfor %}', ''),
      { line: expect.any(Number) as number, code: 'template-tag-not-open' },
    ],
    [
      'an unknown filter',
      'templates/pages/post.liquid',
      (text) => text.replace('reading_minutes', 'minutes'),
      { line: 11, code: 'template-filter-unknown' },
    ],
    [
      'an unknown partial',
      'templates/pages/home.liquid',
      (text) => text.replace('partials/card', 'partials/cord'),
      { line: 11, code: 'template-missing' },
    ],
    [
      'a partial that renders itself',
      'templates/partials/pager.liquid',
      (text) => `${text}{% render 'partials/pager' %}`,
      { code: 'template-renders-itself' },
    ],
    [
      'an unknown route in url',
      'templates/partials/card.liquid',
      (text) => text.replace("'category' | url", "'categry' | url"),
      { line: 5, code: 'template-route-unknown' },
    ],
    [
      'a missing parameter in url',
      'templates/partials/card.liquid',
      (text) => text.replace('| url: category: post.category.slug', '| url'),
      { line: 5, code: 'template-route-parameter-missing' },
    ],
    [
      'an unknown asset',
      'templates/layouts/base.liquid',
      (text) => text.replace("'blog.css'", "'bog.css'"),
      { code: 'template-asset-unknown' },
    ],
    [
      'a fragment without a lifetime',
      'templates/partials/aside.liquid',
      (text) => text.replace(", lifetime: '1h'", ''),
      { line: 1, code: 'fragment-lifetime-missing' },
    ],
    [
      'a fragment that reads the form',
      'templates/partials/aside.liquid',
      (text) => text.replace('<aside', '{{ form.token }}<aside'),
      { line: 2, code: 'fragment-reads-visitor' },
    ],
    [
      'a document with an invalid name',
      'templates/card.liquid',
      () => 'x',
      { code: 'document-name-invalid' },
    ],
  ])('%s', (_, path, change, expected) => {
    expect(problems(withDocument(path, change))).toEqual(
      expect.arrayContaining([expect.objectContaining({ file: path, ...expected })]),
    )
  })

  it('reports which document is missing', () => {
    expect(problems(new Map()).map((one) => one.file)).toEqual(['blog.yaml', 'routes.yaml'])
  })

  it('refuses YAML that expands exponentially', () => {
    const bomb = [
      'a: &a [x, x, x, x, x, x, x, x, x]',
      ...['b', 'c', 'd', 'e', 'f', 'g'].map(
        (name, index) => `${name}: &${name} [${Array(9).fill(`*${'abcdef'[index]}`).join(', ')}]`,
      ),
    ].join('\n')
    expect(problems(new Map([...demo, ['blog.yaml', bomb]]))[0]).toMatchObject({
      file: 'blog.yaml',
      line: 1,
      code: 'yaml-invalid',
    })
  })
})
