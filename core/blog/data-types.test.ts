// Faults that types show: planted in the demo's templates one by one; and changes of templates that are right.
import { describe, expect, it } from 'vitest'
import { blank, demo, withDocument } from '../testing/demo.ts'
import { analysedTemplates } from './data-types.ts'
import { readDefinition } from './read.ts'

type Documents = ReadonlyMap<string, string>

function faultsIn(documents: Documents) {
  const read = readDefinition(documents)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return analysedTemplates(read.value).faults
}

/** Returns the demo with a part of a template replaced. */
const planted = (template: string, part: string, by: string): Documents =>
  withDocument(`templates/${template}.liquid`, (text) => {
    expect(text).toContain(part)
    return text.replace(part, () => by)
  })

const lineOf = (documents: Documents, template: string, part: string): number => {
  const text = documents.get(`templates/${template}.liquid`) ?? ''
  return text.slice(0, text.indexOf(part)).split('\n').length
}

describe('templates without faults', () => {
  it.each([
    ['the demo', demo],
    ['a new blog', blank],
  ])('%s', (_, documents) => {
    expect(faultsIn(documents)).toEqual([])
  })

  it('a page that shows a part of a shared template only with data that it lacks', () => {
    const print = `- name: print
  path: /posts/:slug/print
  params: { slug: slug }
  data: { post: post-by-slug, comments: comments-of-post }
  template: pages/post

`
    const faults = faultsIn(
      withDocument('routes.yaml', (text) => text.replace('- name: page\n', `${print}- name: page\n`)),
    )
    expect(faults.map((one) => `${one.kind} ${one.subject}`)).toEqual([])
  })

  it.each([
    ['partials/card', '{{ post.title }}', '{{ post.title | upcase }}'],
    [
      'partials/card',
      '{{ post.title }}',
      '{% if post.image %}{{ post.image.name }}{% endif %}{{ post.title }}',
    ],
    [
      'partials/card',
      '{{ post.title }}',
      '{{ post.title }}{% if post.author and post.author.about != "" %}{{ post.author.about }}{% endif %}',
    ],
    [
      'partials/card',
      '{{ post.title }}',
      '{% unless post.category %}none{% else %}{{ "category" | url: category: post.category.slug }}{% endunless %}',
    ],
    [
      'partials/card',
      '{{ post.title }}',
      '{% assign where = post.category %}{% if where %}<a href="{{ "category" | url: category: where.slug }}">x</a>{% endif %}',
    ],
    [
      'partials/card',
      '{{ post.title }}',
      '{% assign slug = post.category.slug | default: "none" %}{{ "category" | url: category: slug }}',
    ],
    [
      'partials/card',
      '{{ post.title }}',
      '{% if post.category == nil %}none{% else %}{{ "category" | url: category: post.category.slug }}{% endif %}',
    ],
    [
      'partials/card',
      '{{ post.title }}',
      '{{ post.commentCount | plus: 1 }}{{ post.publishedAt | date: "%Y" }}',
    ],
    ['partials/card', '{{ post.title }}', '<time datetime="{{ post.publishedAt }}">{{ post.title }}</time>'],
    ['partials/card', '{{ post.title }}', '{% if isFeatured %}{{ post.title }}{% endif %}{{ post.title }}'],
    [
      'pages/listing',
      '{% block main %}',
      '{% block main %}{% assign newest = posts.items | first %}{% if newest %}{{ newest.title }}{% endif %}',
    ],
    [
      'pages/listing',
      '{% block main %}',
      '{% block main %}{% for one in posts.items limit: 2 %}{{ forloop.index }} {{ one.title }}{% else %}none{% endfor %}',
    ],
    [
      'pages/listing',
      '{% block main %}',
      '{% block main %}{% assign names = posts.items | map: "title" | join: ", " %}{{ names }}',
    ],
    [
      'pages/listing',
      '{% block main %}',
      '{% block main %}{% assign groups = posts.items | group_by: "category" %}{% for group in groups %}{{ group.items.size }}{% for post in group.items %}{{ post.title }}{% endfor %}{% endfor %}',
    ],
    [
      'pages/listing',
      '{% block main %}',
      '{% block main %}{% assign long = posts.items | where_exp: "post", "post.wordCount > 500" %}{{ long.size }}',
    ],
    [
      'pages/listing',
      '{% block main %}',
      '{% block main %}{% capture head %}{{ posts.total }} posts{% endcapture %}{{ head }}',
    ],
    [
      'pages/post',
      '{{ post.html }}',
      '{{ post.html }}{{ post.wordCount | reading_minutes }}{{ post.tags.size }}{{ post.tags[0].name }}',
    ],
    [
      'pages/post',
      '{{ post.html }}',
      '{% if post.tags.size > 0 %}{{ "tag" | url: tag: post.tags.first.slug }}{% endif %}{{ post.html }}',
    ],
    ['layouts/base', '<body', '<!-- {{ request.params.slug }} {{ blog.tagline }} --><body'],
  ])('%s with “%s” as “%s”', (template, part, by) => {
    expect(faultsIn(planted(template, part, by)).filter((one) => one.subject !== 'isFeatured')).toEqual([])
  })
})

describe('faults', () => {
  it.each<[string, string, string, string, string, string?]>([
    ['partials/card', '{{ post.title }}', '{{ post.titel }}', 'field-unknown', 'post.titel', 'title'],
    ['partials/card', '{{ post.title }}', '{{ pots.title }}', 'name-unknown', 'pots', 'post'],
    [
      'partials/card',
      '{{ post.title }}',
      '{{ post.category.tilte }}',
      'field-unknown',
      'post.category.tilte',
    ],
    [
      'partials/card',
      '{{ post.title }}',
      '{% if post.imgae %}x{% endif %}',
      'field-unknown',
      'post.imgae',
      'image',
    ],
    ['partials/card', '{{ post.title }}', '{{ post.html }}', 'field-not-fetched', 'post.html'],
    [
      'partials/card',
      '{{ post.title }}',
      '{% for tag in post.tags %}{{ tag.name }}{% endfor %}{{ post.tags }}',
      'field-not-fetched',
      'post.tags',
    ],
    ['partials/card', '{{ post.title }}', '{{ post.publishedAt }}', 'date-unformatted', 'post.publishedAt'],
    [
      'partials/card',
      '{{ post.title }}',
      '{{ "category" | url: category: post.category.slug }}',
      'may-be-empty',
      'post.category.slug',
    ],
    ['partials/card', '{{ post.title }}', '{{ post.title.text }}', 'field-unknown', 'post.title.text'],
    [
      'pages/listing',
      '{% block main %}',
      '{% block main %}{{ posts.title }}',
      'field-unknown',
      'posts.title',
    ],
    [
      'pages/listing',
      '{% block main %}',
      '{% block main %}{{ posts.items.title }}',
      'list-as-row',
      'posts.items.title',
    ],
    [
      'pages/listing',
      '{% block main %}',
      '{% block main %}{% for post in posts %}x{% endfor %}',
      'row-as-list',
      'posts',
    ],
    ['pages/listing', '{% block main %}', '{% block mian %}', 'block-unknown', 'mian', 'main'],
    [
      'pages/listing',
      '{% block main %}',
      '{% block main %}{% for post in posts.items %}{{ psot.title }}{% endfor %}',
      'name-unknown',
      'psot',
      'post',
    ],
    [
      'pages/listing',
      '{% block main %}',
      '{% block main %}{% for post in posts.itmes %}{{ post.title }}{% endfor %}',
      'field-unknown',
      'posts.itmes',
      'items',
    ],
    ['pages/post', '{{ post.html }}', '{{ post.body }}', 'field-unknown', 'post.body'],
    ['pages/post', '{{ post.html }}', '{% for one in post %}x{% endfor %}', 'row-as-list', 'post'],
    [
      'pages/post',
      '{{ post.html }}',
      '{{ comments.items[0].names }}',
      'field-unknown',
      'comments.items.0.names',
      'name',
    ],
    ['pages/post', '{{ post.html }}', '<img src="{{ post.image.name }}">', 'may-be-empty', 'post.image.name'],
    [
      'partials/card',
      '{{ post.title }}',
      '<i title="{{ post.publishedAt }}">x</i>',
      'date-unformatted',
      'post.publishedAt',
    ],
    ['pages/post', '{{ post.html }}', '{{ post.title | raw }}', 'filter-fails', 'post.title'],
    [
      'pages/search',
      '{{ request.params.q }}',
      '{{ request.params.q | raw }}',
      'filter-fails',
      'request.params.q',
    ],
    ['pages/post', '%-d %B %Y', '%-d.%M.%Y', 'date-format-wrong', 'post.publishedAt'],
    ['pages/post', 'tag: tag.slug', 'tag: tag.name', 'slug-expected', 'tag.name'],
    ['partials/card', '{{ post.title }}', '{% if post.tags %}x{% endif %}', 'field-not-fetched', 'post.tags'],
    ['layouts/base', '<body', '{{ blog.titel }}<body', 'field-unknown', 'blog.titel', 'title'],
    ['layouts/base', '<body', '{{ site.title }}<body', 'name-unknown', 'site'],
    ['layouts/base', '<body', '{{ request.pth }}<body', 'field-unknown', 'request.pth', 'path'],
  ])('%s with “%s” as “%s”: %s %s', (template, part, by, kind, subject, meant) => {
    const documents = planted(template, part, by)
    const found = faultsIn(documents).find((one) => one.kind === kind && one.subject === subject)
    expect(found).toMatchObject({
      template,
      place: { line: lineOf(documents, template, by.split('\n')[0] ?? '') },
      ...(meant === undefined ? {} : { meant }),
    })
  })

  it('an argument that the partial does not read', () => {
    const documents = planted(
      'pages/post',
      "{% render 'partials/comments', post: post,",
      "{% render 'partials/comments', psot: post, post: post,",
    )
    expect(faultsIn(documents)).toMatchObject([{ kind: 'argument-unread', subject: 'psot', meant: 'post' }])
  })

  it('an argument that is missing', () => {
    const documents = planted(
      'pages/post',
      "{% render 'partials/comments', post: post,",
      "{% render 'partials/comments',",
    )
    expect(faultsIn(documents).map((one) => [one.kind, one.template, one.subject])).toContainEqual([
      'name-unknown',
      'partials/comments',
      'post',
    ])
  })
})

describe('what a template prints', () => {
  const kindsFor = (template: string, part: string, by: string) =>
    faultsIn(planted(template, part, by)).map((one) => `${one.kind} ${one.subject}`)

  it.each([
    ['{{ post.author }}', ['row-printed post.author']],
    ['<i title="{{ post.author }}">x</i>', ['row-printed post.author']],
    ['{{ post.tags }}', ['row-printed post.tags']],
    ['{{ post.tags.size }}', []],
    ["{{ post.tags | map: 'name' | join: ', ' }}", []],
    ['{{ post.slug }}', ['slug-shown post.slug']],
    ['<p id="{{ post.slug }}">x</p>', []],
    ['<code>{{ post.slug }}</code>', []],
    ['{{ post.slug | upcase }}', []],
    ['{{ request.params.slug }}', []],
    ['{{ post.html | strip_html }}', ['markup-lost post.html']],
    ['<p title="{{ post.html | strip_html }}">x</p>', []],
    ['{{ post.html | strip_html | excerpt: 90 }}', []],
    ['{{ post.title | excerpt: 0 }}', ['cut-to-nothing post.title']],
    ["{{ 'a' | truncate: 0 }}", ['cut-to-nothing cut-to-nothing']],
    ['{{ post.title | excerpt: 1 }}', []],
    ['{{ post.title | escape }}', ['escaped-twice post.title']],
    ['{{ post.title | escape | upcase }}', []],
    ['{{ now }}', ['date-unformatted now']],
    ["{{ now | date: '%Y' }}", []],
    ["{% for one in related %}{{ now | date: '%Y' }}{% endfor %}", ['now-in-loop now']],
    ["{% for one in related %}{% assign now = one.publishedAt %}{{ now | date: '%Y' }}{% endfor %}", []],
    ["{% for one in (1..3) %}{{ now | date: '%Y' }}{% endfor %}", []],
    ['{% for one in related %}{% if one.publishedAt < now %}x{% endif %}{% endfor %}', []],
    ['{{ comments.items.size }}', ['page-counted comments.items.size']],
    ['{{ comments.items | size }} of {{ comments.total }}', []],
    ['{{ related.size }}', []],
    ['{% for comment in comments.items %}{{ comment.text }}{% endfor %}', ['comment-as-typed comment.text']],
    ['{% for comment in comments.items %}<textarea>{{ comment.text }}</textarea>{% endfor %}', []],
    ['{% for comment in comments.items %}<p title="{{ comment.text }}">x</p>{% endfor %}', []],
  ])('%s: %s', (by, kinds) => expect(kindsFor('pages/post', '</article>', `${by}</article>`)).toEqual(kinds))

  it('a partial that is rendered for each row of a list is in the loop', () => {
    expect(kindsFor('partials/card', '</article>', "{{ now | date: '%Y' }}</article>")).toEqual([
      'now-in-loop now',
    ])
    expect(kindsFor('partials/pager', '</nav>', "{{ now | date: '%Y' }}</nav>")).toEqual([])
  })
})

describe('a page that would take long to analyse', () => {
  const nested = (depth: number, body: (level: number) => string) =>
    withDocument('templates/pages/listing.liquid', () =>
      [
        ...Array.from({ length: depth }, (_, level) => `{% for a${level} in posts.items %}${body(level)}`),
        '{{ a0.titel }}',
        ...Array.from({ length: depth }, () => '{% endfor %}'),
      ].join(''),
    )
  const analysed = (documents: Documents) => {
    const read = readDefinition(documents)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    return analysedTemplates(read.value)
  }

  it('is analysed as a whole if loops carry values from one iteration into the next', () => {
    const documents = nested(
      30,
      (level) => `{% if a${level}.category %}{% assign x${level} = a${level}.category %}{% endif %}`,
    )
    const { faults, isComplete } = analysed(documents)
    expect(isComplete).toBe(true)
    expect(faults.map((one) => one.subject)).toContain('a0.titel')
  })

  it('is analysed up to a limit, and then nothing is claimed', () => {
    const partials = Array.from({ length: 8 }, (_, level): [string, string] => [
      `templates/partials/level-${level}.liquid`,
      level === 7 ? 'end' : `{% render 'partials/level-${level + 1}' %}`.repeat(10),
    ])
    const documents = new Map([...nested(1, () => "{% render 'partials/level-0' %}"), ...partials])
    // The page would have 10 million renderings of partials.
    const { faults, isComplete } = analysed(documents)
    expect(isComplete).toBe(false)
    // The page that was not reached may give a name its value.
    expect(faults).toEqual([])
  })
})
