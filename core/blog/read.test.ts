// Reading a definition: the demo is good; each fault is told with its file, its line and what to do.
import { describe, expect, it } from 'vitest'
import { buildPath } from '../routing/addresses/build.ts'
import { matchRoute } from '../routing/addresses/match.ts'
import { RouteTable } from '../routing/addresses/table.ts'
import { demo, problemsOf as problems, withDocument } from '../testing/demo.ts'
import { readDefinition } from './read.ts'

/** What every object of JavaScript inherits must not pass for something the author declared. */
describe.each(['constructor', 'toString', 'hasOwnProperty'])('a definition that speaks of “%s”', (name) => {
  it('is read like one that speaks of anything else unknown', () => {
    const query = (more: string) =>
      problems(
        withDocument(
          'queries/all-posts.yaml',
          (text) => `${text.replace(/^(with|where|order): .*\n/gm, '')}${more}\n`,
        ),
      )
    expect(query(`with: [${name}]`)).toMatchObject([{ path: '/with/0', message: `posts have no “${name}”` }])
    expect(query(`order: [${name}]`)).toMatchObject([{ message: `posts have no field “${name}”` }])
    expect(query(`where: [{ field: ${name}, is: set }]`)).toMatchObject([
      { message: `posts have no field “${name}”` },
    ])
    expect(query(`where: [{ field: category.${name}, is: set }]`)).toMatchObject([
      { message: `posts have no field “category.${name}”` },
    ])
    expect(query(`where: [{ field: slug, is: equal, to: ':${name}' }]`)).toMatchObject([
      {
        file: 'routes.yaml',
        path: '/1/data/posts',
        message: `query “all-posts” needs “${name}”, which the address does not have`,
      },
    ])
    expect(
      problems(withDocument('routes.yaml', (text) => text.replace('except: post.slug', `except: ${name}`))),
    ).toMatchObject([{ message: `“${name}” is neither a parameter of the address nor data of this route` }])
  })
  it('may use it as the name of a parameter', () => {
    const result = readDefinition(
      withDocument(
        'routes.yaml',
        (text) => `${text}\n- name: odd\n  path: /odd/:${name}\n  template: pages/page\n`,
      ),
    )
    if (!result.ok) throw new Error(JSON.stringify(result.problems))
    const odd = result.definition.routes.at(-1)
    if (!odd) throw new Error('no route')
    expect(buildPath(odd, {})).toMatchObject({
      ok: false,
      message: `route “odd” needs “${name}”, which is missing`,
    })
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
      { line: 17, column: 1, message: '“colour” is not known here' },
    ],
    ['broken YAML', 'blog.yaml', () => 'title: "open\n', { line: 2 }],
    [
      'a key twice',
      'blog.yaml',
      (text) => `${text}title: again\n`,
      { line: 17, message: 'Map keys must be unique' },
    ],
    [
      'a wrong zone',
      'blog.yaml',
      (text) => text.replace('Europe/London', 'Europe/Cobble'),
      { line: 4, message: '“Europe/Cobble” is no time zone' },
    ],
    [
      'a route name twice',
      'routes.yaml',
      (text) => text.replace('name: posts', 'name: home'),
      { path: '/1/name', message: 'the name “home” is used twice' },
    ],
    [
      'a pattern that does not compile',
      'routes.yaml',
      (text) => text.replace('path: /posts\n', "path: '/posts/:'\n"),
      { line: 12, message: 'in “/posts/:” at character 8: a name is missing after “:”' },
    ],
    [
      'an unknown parameter type',
      'routes.yaml',
      (text) => text.replace('{ slug: slug }', '{ slug: slugg }'),
      { path: '/2/params/slug', message: '“slug” is “slugg”' },
    ],
    [
      'an unknown template',
      'routes.yaml',
      (text) => text.replace('pages/home', 'pages/hime'),
      { hint: 'did you mean “pages/home”?' },
    ],
    [
      'an unknown query',
      'routes.yaml',
      (text) => text.replace('latest: latest-posts', 'latest: latest-post'),
      { message: 'there is no query “latest-post”', hint: 'did you mean “latest-posts”?' },
    ],
    [
      'a parameter the address lacks',
      'routes.yaml',
      (text) => text.replace('posts: all-posts', 'posts: posts-in-category'),
      { message: 'query “posts-in-category” needs “category”, which the address does not have' },
    ],
    [
      'a route that answers with nothing',
      'routes.yaml',
      (text) => text.replace('  template: pages/home\n', ''),
      { message: 'route “home” answers with nothing' },
    ],
    [
      'a comment form without a post',
      'routes.yaml',
      (text) => text.replace('  data:\n    post: post-by-slug\n  action', '  action'),
      { message: 'add-comment needs to know the post' },
    ],
    [
      'an unknown field',
      'queries/all-posts.yaml',
      (text) => text.replace('-publishedAt', '-published'),
      { line: 4, message: 'posts have no field “published”' },
    ],
    [
      'an unknown condition',
      'queries/all-posts.yaml',
      (text) => text.replace('[published]', '[visible]'),
      { line: 3, message: 'posts know no condition “visible”' },
    ],
    [
      'an unknown relation',
      'queries/all-posts.yaml',
      (text) => text.replace('category, author', 'categorie, author'),
      { line: 2, message: 'posts have no “categorie”' },
    ],
    [
      'pages without a size',
      'queries/all-posts.yaml',
      (text) => text.replace(/pages: .*/, ''),
      { message: '“take: pages” needs “pages: { size: … }”' },
    ],
    [
      'a value of the wrong type',
      'queries/latest-posts.yaml',
      (text) => text.replace('where: [published]', 'where: [{ field: wordCount, is: more, to: many }]'),
      { message: '"many" is not an integer' },
    ],
    [
      'a parameter of the wrong type',
      'queries/post-by-slug.yaml',
      (text) => text.replace('field: slug,', 'field: wordCount,'),
      {
        file: 'routes.yaml',
        message: '“slug” is a slug, and query “post-by-slug” compares it with an integer',
      },
    ],
    [
      'a number compared with text',
      'routes.yaml',
      (text) => text.replace('{ slug: slug }', '{ slug: integer }'),
      {
        path: '/2/data/post',
        message: '“slug” is an integer, and query “post-by-slug” compares it with a slug',
      },
    ],
    [
      'a type for a parameter that the path does not have',
      'routes.yaml',
      (text) => text.replace('{ slug: slug }', '{ slugs: slug }'),
      { path: '/2/params/slugs', line: 23, message: 'the path has no parameter “:slugs”' },
    ],
    [
      'a redirect to nothing that could be an address',
      'routes.yaml',
      (text) => `- { name: away, path: /away, redirect: { to: //evil.example } }\n${text}`,
      {
        path: '/0/redirect/to',
        line: 1,
        hint: expect.stringContaining('begins with one “/”') as string,
      },
    ],
    [
      'a value that contains itself',
      'blog.yaml',
      (text) => text.replace('title: Cobble Lane Repair Café', 'title: &loop [*loop]'),
      { line: 1, message: '“title” must be a string, not a value that contains itself' },
    ],
    [
      'a tag that is not closed',
      'templates/pages/home.liquid',
      (text) => text.replace('{%- endfor %}', ''),
      { line: expect.any(Number) as number, hint: 'something opened before it is not closed' },
    ],
    [
      'an unknown filter',
      'templates/pages/post.liquid',
      (text) => text.replace('reading_minutes', 'minutes'),
      { line: 11, message: 'there is no filter “minutes”' },
    ],
    [
      'an unknown partial',
      'templates/pages/home.liquid',
      (text) => text.replace('partials/card', 'partials/cord'),
      { line: 11, message: 'there is no template “partials/cord”', hint: 'did you mean “partials/card”?' },
    ],
    [
      'a partial in itself',
      'templates/partials/pager.liquid',
      (text) => `${text}{% render 'partials/pager' %}`,
      { message: '“partials/pager” renders itself: partials/pager → partials/pager' },
    ],
    [
      'an unknown route in url',
      'templates/partials/card.liquid',
      (text) => text.replace("'category' | url", "'categry' | url"),
      { line: 5, message: 'there is no route “categry”', hint: 'did you mean “category”?' },
    ],
    [
      'a missing parameter in url',
      'templates/partials/card.liquid',
      (text) => text.replace('| url: category: post.category.slug', '| url'),
      { line: 5, message: 'route “category” needs “category”' },
    ],
    [
      'an asset that is not there',
      'templates/layouts/base.liquid',
      (text) => text.replace("'blog.css'", "'bog.css'"),
      { hint: 'did you mean “blog.css”?' },
    ],
    [
      'a fragment without a lifetime',
      'templates/partials/aside.liquid',
      (text) => text.replace(", lifetime: '1h'", ''),
      { line: 1, message: "a fragment needs a lifetime, e.g. lifetime: '1h'" },
    ],
    [
      'a fragment that keeps the form',
      'templates/partials/aside.liquid',
      (text) => text.replace('<aside', '{{ form.once }}<aside'),
      { line: 1, message: 'fragment “aside” reads “form”, which is different for each reader' },
    ],
    [
      'a document where none may be',
      'templates/card.liquid',
      () => 'x',
      { message: 'no document may have this name' },
    ],
  ])('%s', (_, path, change, expected) => {
    expect(problems(withDocument(path, change))).toEqual(
      expect.arrayContaining([expect.objectContaining({ file: path, ...expected })]),
    )
  })

  it('a definition without settings or routes says which document is missing', () => {
    expect(problems(new Map()).map((one) => one.file)).toEqual(['blog.yaml', 'routes.yaml'])
  })

  it('YAML that multiplies itself is refused, not expanded', () => {
    const bomb = [
      'a: &a [x, x, x, x, x, x, x, x, x]',
      ...['b', 'c', 'd', 'e', 'f', 'g'].map(
        (name, index) => `${name}: &${name} [${Array(9).fill(`*${'abcdef'[index]}`).join(', ')}]`,
      ),
    ].join('\n')
    expect(problems(new Map([...demo, ['blog.yaml', bomb]]))[0]).toMatchObject({
      file: 'blog.yaml',
      line: 1,
      message: expect.stringContaining('Excessive alias count') as string,
    })
  })
})
