// Completion in templates by type. ^ is the cursor; what is typed after it is incomplete.
import { describe, expect, it } from 'vitest'
import { demo } from '../testing/demo.ts'
import { readDefinition } from './read.ts'
import { classesIn, completeByType } from './template-completion.ts'

const read = readDefinition(demo)
if (!read.ok) throw new Error(JSON.stringify(read.problems))
const definition = read.value

/** Returns the choices for a text of a template. */
function complete(template: string, marked: string, route: string | null = null) {
  const at = marked.indexOf('^')
  const text = marked.replace('^', '')
  const found = completeByType(definition, { template, text, at, route })
  return (
    found && {
      word: text.slice(found.from, at),
      values: found.choices.map((one) => one.value),
      choices: found.choices,
    }
  )
}

describe('completion', () => {
  it.each<[string, string, string, string[]]>([
    ['data of the page', 'pages/listing', '{{ po^', ['posts', 'categories', 'blog', 'navigation']],
    ['fields of a page of posts', 'pages/listing', '{{ posts.^', ['items', 'total', 'page', 'next']],
    [
      'fields of the item of a loop that is not closed',
      'pages/listing',
      '{% for one in posts.items %}<p>{{ one.^',
      ['title', 'slug', 'category'],
    ],
    ['fields of an item by its number', 'pages/listing', '{{ posts.items[0].ca^', ['category', 'title']],
    [
      'the counters of a loop',
      'pages/listing',
      '{% for one in posts.items %}{{ forloop.^ }}',
      ['index', 'last'],
    ],
    ['what a list has', 'pages/listing', '{{ posts.items.^ }}', ['size', 'first', 'last']],
    [
      'a name that was assigned',
      'pages/listing',
      '{% assign first = posts.items.first %}{% if first.^',
      ['title', 'category'],
    ],
    ['arguments of a partial', 'partials/card', '{{ ^', ['post', 'blog']],
    ['fields of an argument', 'partials/card', '{{ post.author.^', ['name', 'slug']],
    [
      'the text of a block',
      'pages/post',
      "{% layout 'layouts/base' %}{% block main %}{{ post.ti^",
      ['title', 'html'],
    ],
    ['partials', 'pages/listing', "{% render '^", ['partials/card', 'partials/pager']],
    ['layouts', 'pages/listing', "{% layout 'lay^", ['layouts/base']],
    ['routes', 'pages/listing', "{{ '^", ['post', 'posts', 'home', 'blog.css']],
    ['parameters of a route', 'pages/listing', "{{ 'post' | url: ^", ['slug: ']],
    [
      'arguments of the partial that is rendered',
      'pages/listing',
      "{% render 'partials/card', ^",
      ['post: '],
    ],
    [
      'values of such an argument',
      'pages/listing',
      "{% for one in posts.items %}{% render 'partials/card', post: o^",
      ['one', 'posts'],
    ],
    [
      'blocks of the layout',
      'pages/listing',
      "{% layout 'layouts/base' %}{% block ^",
      ['main', 'title', 'links'],
    ],
    ['classes of the stylesheet', 'pages/listing', '<div class="wrap ca^', ['card', 'cols']],
    ['in conditions', 'pages/post', '{% if post.^', ['image', 'category']],
    ['in the second of two braces', 'pages/post', '{{ post.title }} {{ post.^', ['image']],
    ['in a filter’s argument', 'pages/post', '{{ post.title | append: post.^', ['slug']],
  ])('offers %s', (_, template, marked, wanted) => {
    expect(complete(template, marked)?.values).toEqual(expect.arrayContaining(wanted))
  })

  it.each<[string, string]>([
    ['outside braces', 'post.^'],
    ['in a text', "{{ post.title | append: 'a b ^"],
    ['where the template before it does not parse', '{% if %}{% endfor %}{{ post.^'],
    ['after a value that is not a row', '{{ post.title.size.^'],
  ])('offers nothing %s', (_, marked) => {
    expect(complete('pages/post', marked)?.values ?? []).toEqual([])
  })

  it('says the type, whether it may be empty, and what the query would have to fetch', () => {
    const choices = complete('pages/listing', '{% for one in posts.items %}{{ one.^')?.choices ?? []
    const details = Object.fromEntries(choices.map(({ value, detail }) => [value, detail]))
    expect(details['title']).toBe('text')
    expect(details['category']).toBe('category, possibly empty')
    expect(details['html']).toMatch(/^not fetched\. Only a query for one row/)
  })

  it('offers each parameter and argument once', () => {
    expect(complete('pages/listing', "{{ 'post' | url: slug: post.slug, ^")?.values).toEqual([])
    expect(complete('pages/listing', "{% render 'partials/card', post: post, ^")?.values).toEqual([])
  })

  it('reads the page of the route that is looked at', () => {
    const [home, post] = ['home', 'post'].map(
      (route) => complete('layouts/base', '{{ ^', route)?.values ?? [],
    )
    expect(post).toContain('post')
    expect(home).not.toContain('post')
  })

  it('replaces the word that was begun', () => {
    expect(complete('pages/post', '{{ post.ti^')?.word).toBe('ti')
    expect(complete('pages/post', "{% render 'partials/co^")?.word).toBe('partials/co')
  })
})

it('the classes of a stylesheet are those of its selectors', () => {
  const css = '/* .no */ .card > .a-b:hover, p.lead { background: url(x.png); margin: .5em } @import "a.css";'
  expect([...classesIn(css)]).toEqual(['card', 'a-b', 'lead'])
})
