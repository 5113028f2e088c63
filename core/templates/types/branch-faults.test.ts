// Values in branches that are only rendered without them, and what is no such fault.
import { expect, it } from 'vitest'
import { TemplateSet } from '../set.ts'
import { analyseTemplates } from './analyse.ts'
import { BOOLEAN, DATE, HTML, listOf, NUMBER, orEmpty, row, TEXT, type Type } from './type.ts'

const author = row('author', { name: TEXT, about: TEXT })
const post = row('post', {
  title: TEXT,
  html: HTML,
  publishedAt: orEmpty(DATE),
  commentCount: NUMBER,
  isPinned: BOOLEAN,
  author: orEmpty(author),
})
const data = new Map<string, Type>([
  ['post', post],
  ['related', listOf(post)],
])

/** @param known the data of the page */
const faultsIn = (text: string, known: ReadonlyMap<string, Type> = data) => {
  const set = TemplateSet.of(new Map([['pages/p', text]]), 'UTC')
  const globals = new Map([['request', row('request', { route: TEXT })]])
  const page = {
    page: 'pages/p',
    route: 'p',
    data: known,
    globals,
    slugs: new Map([['post', new Set<string>()]]),
  }
  return analyseTemplates((name) => set.tree(name), [page]).faults.map((one) => `${one.kind} ${one.subject}`)
}

it.each([
  ['{% unless post.author %}{{ post.author.name }}{% endunless %}', 'always-empty post.author.name'],
  ['{% if post.author %}a{% else %}{{ post.author.name }}{% endif %}', 'always-empty post.author.name'],
  ["{% if post.author.about == '' %}{{ post.author.about }}{% endif %}", 'always-empty post.author.about'],
  [
    '{% if related.size == 0 %}{% for one in related %}{{ one.title }}{% endfor %}{% endif %}',
    'always-empty related',
  ],
  [
    '{% if related.size > 0 %}a{% else %}{% for one in related %}{{ one.title }}{% endfor %}{% endif %}',
    'always-empty related',
  ],
  [
    '{% if post.commentCount > 0 %}some{% else %}{{ post.commentCount }}{% endif %}',
    'always-empty post.commentCount',
  ],
  [
    '{{ post.commentCount }} {% if post.commentCount != 1 %}reply{% else %}replies{% endif %}',
    'plural-swapped replies',
  ],
  ['{% if post.author == post.title %}a{% endif %}', 'compare-never post.author'],
  ["{% if post.commentCount == '1' %}a{% endif %}", 'compare-never post.commentCount'],
  ["{% if request.route == 'posts' %}a{% endif %}", 'route-unknown posts'],
  [
    `<time datetime="2026-01-01">{{ post.publishedAt | date: '%Y' }}</time>`,
    'time-constant datetime="2026-01-01"',
  ],
  ['{% if post.author %}{% endif %}', 'branch-idle line 1'],
  ['{% if post.author %}a{% elsif post.title %}{% endif %}', 'branch-idle line 1'],
  ["{% if request.route == 'post' %}<p>No comments yet.</p>{% endif %}", 'nothing-always No comments'],
  ['{% if post.html == 1 %}a{% endif %}', 'compare-never post.html'],
  ["{% if post.title == 'a' %}a{% elsif post.author %}{% else %}b{% endif %}", 'branch-idle line 1'],
  ['{% for one in related offset: 1 %}{{ one.title }}{% endfor %}', 'rows-skipped related'],
  ['{% if post.title == false %}a{% endif %}', 'compare-never post.title'],
  ['{% if post.commentCount < 0 %}a{% endif %}', 'compare-never post.commentCount'],
  ['{% if related.size >= 0 %}a{% endif %}', 'compare-never related.size'],
  ['{{ post.author | excerpt: 60 }}', 'filter-misreads post.author'],
  ['{% if post.author %} {% else %} {% endif %}', 'branch-idle line 1'],
  ['{% unless post.author %}{% if post.title %}{% endif %}{% endunless %}', 'branch-idle line 1'],
  ['{% for one in related %}\n{% endfor %}', 'branch-idle line 1'],
  ['{% for one in related %}{{ one.title }}{%- else %}\n  {%- endfor %}', 'branch-idle line 1'],
  [`<a href="{{ 'post' }}">a</a>`, "literal-printed 'post'"],
  [`<link href="{{ 'blog.css' }}">`, "literal-printed 'blog.css'"],
  ["{{ 'post.title' }}", "literal-printed 'post.title'"],
  ["{{ post.publishedAt | date: '%s' }}", 'date-format-wrong post.publishedAt'],
])('in %s', (text, fault) => expect(faultsIn(text)).toContain(fault))

it.each([
  '{% if post.author %}{{ post.author.name }}{% else %}nobody{% endif %}',
  "{% if post.author.about != '' %}{{ post.author.about }}{% endif %}",
  '{% if related.size > 0 %}{% for one in related %}{{ one.title }}{% endfor %}{% endif %}',
  '{% if related.size == 0 %}none{% else %}{% for one in related %}{{ one.title }}{% endfor %}{% endif %}',
  '{% if post.commentCount == 0 %}none{% else %}{{ post.commentCount }}{% endif %}',
  '{% if post.commentCount == 1 %}one{% else %}{{ post.commentCount }}{% endif %}',
  '{% if post.commentCount == 1 %}reply{% else %}replies{% endif %}',
  "{% unless post.isPinned %}{{ post.isPinned }}{% endunless %}{{ post.author | default: 'a' }}",
  '{% unless post.author %}{% assign author = post %}{{ author.title }}{% endunless %}',
  "{% if request.route == 'post' or request.route == 'not-found' %}a{% endif %}",
  `<time datetime="{{ post.publishedAt }}">{{ post.publishedAt | date: '%Y' }}</time>`,
  '<time datetime="2026-01-01">1 January</time>',
  "{{ post.author.name | truncate: 1, '' }}",
  "{% if post.commentCount == 0 %}{% if request.route == 'post' %}<p>No comments yet.</p>{% endif %}{% endif %}",
  '{% for one in related %}{{ one.title }}{% else %}<p>Nothing here.</p>{% endfor %}',
  '{{ related[0].title }}{% for one in related offset: 1 %}{{ one.title }}{% endfor %}',
  '{% for one in related limit: 1 %}{{ one.title }}{% endfor %}{% for one in related offset: 1 %}{{ one.title }}{% endfor %}',
  '{% for one in related offset: 0 %}{{ one.title }}{% endfor %}{% if post.isPinned == false %}a{% endif %}',
  '{% if post.commentCount <= 0 %}a{% endif %}{% if related.size >= 1 %}a{% endif %}',
  '{% if post.author %}{% else %}nobody{% endif %}',
  '{% if post.author %}{% assign a = 1 %}{% endif %}',
  '{% for one in related %}{{ one.title }}{% endfor %}',
  '{% for one in related %}{% if one.title == "a" %}{% break %}{% endif %}{% endfor %}',
  `<a href="{{ '/posts' }}">a</a>{{ 'post' }}{{ '{{' }}{{ 'v1.2' }}`,
  `<i data-at="{{ post.publishedAt | date: '%s' }}"></i>`,
])('not in %s', (text) => expect(faultsIn(text)).toEqual([]))

it('a branch for data that one of its pages lacks is no fault', () => {
  const text =
    '{% if related.size > 0 %}{% for one in related %}{{ one.title }}{% endfor %}{{ related.size }}{% endif %}'
  expect(faultsIn(text, new Map([['post', post]])).filter((one) => one.startsWith('always'))).toEqual([])
})
