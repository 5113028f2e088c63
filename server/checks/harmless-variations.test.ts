// Variations of the demo that are no faults, all at the same time: nothing is found.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { saveTexts, textOf } from '../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const BASE = 'templates/layouts/base.liquid'

type Edit = readonly [path: string, part: string | RegExp, by: string]

it('nothing is found in variations that are no faults', { timeout: 120_000 }, async () => {
  const glossary = `- name: glossary
  path: /glossary
  heading: Glossary
  data: { posts: posts-by-title }
  template: pages/glossary
`
  const added: Record<string, string> = {
    'queries/posts-by-title.yaml':
      'from: posts\nwith: [image]\nwhere: [published]\norder: [title]\ntake: first 100\n',
    'queries/newest-of-year.yaml':
      'from: posts\nwhere:\n  - published\n  - { field: publishedAt, is: at-least, to: "2001-01-01T00:00:00Z" }\norder: [title]\ntake: first 3\n',
    'templates/pages/glossary.liquid': `{% layout 'layouts/base' %}
{% block title %}{{ heading }} · {% endblock %}
{% block main %}
<main id="content">
  <h1 id="{{ heading | slugify }}">{{ heading }}</h1>
  <dialog><form method="dialog"><input name="words" aria-label="Words"><button>Close</button></form></dialog>
  <p><a href="{{ 'author' | url: author: 'ines-marchetti' }}">Ines Marchetti</a> (2019)</p>
  <p><a href="#glossary">From the start</a> · <a href="#top">Top</a></p>
  <ul>
    {% for post in posts %}
    <li><a href="{{ 'post' | url: slug: post.slug }}">{{ post.title }}</a> {{ post.publishedAt | date: '%Y' }}, <time datetime="{{ post.publishedAt | date: '%Y-%m' }}">{{ post.publishedAt | date: '%B' }}</time></li>
    {% endfor %}
  </ul>
  {% render 'partials/note' %}
  {% render 'partials/note', text: 'Ask us' %}
  {% for post in posts limit: 2 %}{% if post.image %}<img src="/media/{{ post.image.name }}" width="{{ post.image.width }}" height="{{ post.image.height }}" alt="">{% endif %}{% endfor %}
</main>
{% endblock %}
`,
    'templates/partials/some.liquid':
      "{% if posts %}{% for post in posts limit: 1 %}<p><time>{{ post.publishedAt | date: '%Y-%m-%d' }}</time> {{ post.title }}</p>{% endfor %}{% endif %}\n",
    'templates/partials/note.liquid': '<p class="note">{{ text | default: \'Welcome\' }}</p>\n',
    'assets/theme.js': `document.documentElement.style.setProperty('--later', '1px')
const box = document.createElement('div')
box.className = 'own-box'
document.querySelector('.note')?.append(box)
document.querySelector('.own-box')?.remove()
if (typeof laterLibrary !== 'undefined') laterLibrary.start()
window.onsized = () => fetch('/feed.atom').then((answer) => answer.text())
fetch('/posts/none/comments', { method: 'POST' })
document.querySelector('a[href$=".unknown"], #say-help')?.closest('.note:not([data-x="#none"])')
`,
    'assets/more.css': `@property --size { syntax: '<length>'; inherits: false; initial-value: 1px; }
.note { text-wrap: balance; padding: var(--later); margin: var(--unknown, 1px) var(--size); interpolate-size: allow-keywords; -webkit-line-clamp: 2; *zoom: 1; }
.note { & b { color: color-mix(in oklch, red, blue); } }
@container (min-width: 20rem) { .note { field-sizing: content; accent-color: auto; } }
button:focus:not(:focus-visible) { outline: none; }
dialog, summary, x-own, #content article > p { --pale: #fffc; --text: '#none'; }
.menu button { outline: 0; }
.menu button:focus-visible { box-shadow: 0 0 0 2px var(--ink); }
`,
  }
  const edits: Edit[] = [
    [BASE, 'lang="{{ blog.language }}"', 'lang="en"'],
    [
      BASE,
      'href="{{ request.canonical }}">{% endif %}',
      'href="{{ blog.origin }}{{ request.url }}">{% endif %}',
    ],
    [
      BASE,
      '{% block main %}',
      '<form action="{{ \'search\' | url }}"><input name="q" aria-label="Search"><button>Go</button></form>\n  {% block main %}',
    ],
    [BASE, '<p><strong>', '<p><a href="{{ \'glossary\' | url }}">Glossary</a></p>\n      <p><strong>'],
    [
      BASE,
      '<script src',
      '<link rel="stylesheet" href="{{ \'more.css\' | asset }}">\n  <script src="{{ \'theme.js\' | asset }}" defer></script>\n  <script src',
    ],
    ['routes.yaml', /^/, glossary],
    ['routes.yaml', '  heading: Journal\n', '  heading: Journal\n  query: { view: text }\n'],
    [
      'routes.yaml',
      '    category: category-by-slug\n    posts: posts-in-category\n  template',
      '    category: category-by-slug\n    posts: posts-in-category\n    latest: newest-of-year\n  template',
    ],
    [
      'templates/pages/category.liquid',
      "{% render 'partials/pager', paged: posts %}",
      "{% render 'partials/pager', paged: posts, newer: 'Back', older: 'On' %}\n    <ul>{% for one in latest %}<li>{{ one.title }}</li>{% endfor %}</ul>",
    ],
    [
      'templates/pages/listing.liquid',
      '<h1 class="section">{{ heading }}</h1>',
      `<h1 class="section">{{ heading }}</h1>
    <form><select name="view" aria-label="View"><option value="list">List</option><option value="grid">Grid</option><option value="table">Table</option></select><button>Show</button></form>
    <p class="{{ request.params.view | default: 'list' | slugify }}">{{ posts.items.size }} of {{ posts.total }} posts</p>`,
    ],
    ['queries/all-posts.yaml', '[published]', '[published, { field: wordCount, is: more, to: 1 }]'],
    ['templates/partials/comment-form.liquid', 'maxlength="{{ form.rules.textLength }}"', 'maxlength="4000"'],
    [
      'templates/partials/comment.liquid',
      '<div class="says">{{ comment.html }}</div>',
      '<div class="says">{{ comment.html }}</div>\n  <details><summary>As typed</summary><textarea readonly aria-label="As typed">{{ comment.text }}</textarea></details>',
    ],
    [
      'templates/pages/post.liquid',
      '</article>',
      `</article>
    <p>{{ post.html | strip_html | truncate: 60 }} <code>{{ post.slug }}</code> {{ now | date: '%Y' }}</p>
    <ul>{% for tag in post.tags %}<li data-tag="{{ tag.slug }}">{{ tag.slug | upcase }}{% if now > post.publishedAt %}!{% endif %}</li>{% endfor %}</ul>`,
    ],
    [
      'templates/pages/search.liquid',
      '{% block links %}',
      '{% block links %}<meta name="robots" content="noindex, follow">',
    ],
    // Branches for no rows, plurals, times that are written out, and a way back to the top.
    [
      'templates/pages/page.liquid',
      '<div class="text">{{ page.html }}</div>',
      `<div class="text">{{ page.html }}</div>
      {% if below.size == 0 %}<p>Nothing is below this page.</p>{% else %}<p>{{ below.size }} {% if below.size != 1 %}pages{% else %}page{% endif %}</p>{% endif %}
      {% unless page.parent %}<p>{{ page.title | excerpt: 20 }} <code>/{{ page.path }}</code> <span>{{ page.path }}</span></p>{% endunless %}
      <p>Since <time datetime="2019-05-04">4 May 2019</time>, on <time datetime="{{ page.updatedAt }}">{{ page.updatedAt | date: '%d/%m/%y' }}</time>. <a href="#">Back to the top</a></p>
      <ul>{% for child in below %}<li><a href="{{ 'page' | url: page: child.path }}">{{ child.title }}</a><ul><li><a href="{{ 'page' | url: page: child.path }}#content">{{ child.title }}</a></li></ul></li>{% endfor %}</ul>`,
    ],
    [
      'templates/pages/home.liquid',
      '<h2 class="section">Latest</h2>',
      `<h2 class="section">Latest</h2>
    <ul>{% for post in latest %}<li>{% if post.category %}<a href="{{ 'category' | url: category: post.category.slug }}">{{ post.category.name }}</a>: {% endif %}{{ post.author.name | truncate: 1, '' }} <a href="{{ 'post' | url: slug: post.slug }}">{{ post.title }}</a></li>{% endfor %}</ul>`,
    ],
    [
      'templates/partials/months.liquid',
      '<h2>By month</h2>',
      '<h2>By month</h2>\n    <nav aria-label="Years"><a href="{{ \'archive\' | url }}">All years</a></nav>',
    ],
    [
      'templates/partials/card.liquid',
      'comment{% else %}comments{% endif %}',
      "comment{% else %}comments{% endif %}{% if post.category and post.category.slug == 'lamps' %} by lamplight{% endif %}",
    ],
    ['assets/blog.css', '.all {', '.print-only { display: none; }\n.all {'],
    // What only looks like an empty list, a condition on an optional list, and a description of the blog beside the post's.
    [
      'templates/pages/author.liquid',
      '<h1 class="section">',
      '<p class="note">No post is ever finished.</p>\n    {% if posts.items.size > 0 %}<p>{{ posts.total }} posts</p>{% endif %}\n    <h1 class="section">',
    ],
    [
      'templates/pages/tag.liquid',
      '{%- for post in posts.items %}',
      "{% render 'partials/some', posts: posts.items %}\n    {%- for post in posts.items %}",
    ],
    [
      'templates/pages/category.liquid',
      '{%- for post in posts.items %}',
      "{% render 'partials/some' %}\n    {%- for post in posts.items %}",
    ],
    [
      'templates/pages/post.liquid',
      '{{ post | structured_data }}',
      '{{ blog | structured_data }}{{ post | structured_data }}',
    ],
    [
      'assets/blog.css',
      '.all {',
      '@keyframes in { to { opacity: 1; } }\n.hero { opacity: 0; animation: in 1s forwards; flex: 1 0 20px; line-height: 1.5; }\n@media (max-width: 20rem) { .side { display: none; } }\n.all {',
    ],
    [BASE, 'width=device-width, initial-scale=1', 'initial-scale=1, width=device-width, maximum-scale=5'],
    [BASE, 'href="{{ \'archive\' | url }}"', 'href="{{ \'archive\' | url }}" target="_blank"'],
    ['templates/partials/pager.liquid', '<b aria-current="page">', '<b aria-current="true">'],
    [
      'templates/partials/pager.liquid',
      'Posts {{ paged.from }} to {{ paged.to }} of {% if',
      'Page {{ paged.page }} of {{ paged.pageCount }}, {% if',
    ],
    ['templates/partials/comment.liquid', 'rel="ugc nofollow noopener"', 'rel="nofollow"'],
    [
      'templates/pages/post.liquid',
      `'%-d %B %Y' }}</time>{% else %}`,
      `'%A, %e %b %Y, %H.%M' }}</time>{% else %}`,
    ],
    // Attributes of other standards and of libraries, drawn elements, a first branch that is empty, and parts of a list.
    [
      'templates/pages/post.liquid',
      '<article class="post">',
      '<article class="post" typeof="BlogPosting" vocab="https://schema.org/" data-kind="post" x-data="{}">\n      <i class="dot"></i><i class="dot"></i>',
    ],
    [
      'templates/pages/home.liquid',
      '<p class="all">',
      `{% if latest.size > 3 %}{% else %}<p>Not much yet.</p>{% endif %}
    {% for post in latest limit: 1 %}<p>Newest: {{ post.title }}</p>{% endfor %}{% for post in latest offset: 1 %}<p>Then: {{ post.title }}</p>{% endfor %}
    <p class="all">`,
    ],
    ['templates/pages/page.liquid', '<div class="text">', '<div class="text page page-body">'],
    ['templates/pages/category.liquid', '<main id="content">', '<main id="content" class="posts home-page">'],
    [
      'templates/pages/search.liquid',
      '<article class="found">',
      '<article class="found founds" aria-label="{{ post.title }}" data-slug="{{ post.slug }}">',
    ],
    ['templates/partials/comment-form.liquid', '<p class="leave">', '<p class="leave" hidden>'],
    [
      'templates/partials/comment-form.liquid',
      '<label for="say-name">Your name',
      '<label for="say-name" id="say-name-label">Your name',
    ],
    [
      'assets/blog.css',
      '.all {',
      ':root { --gap: 4px 8px; --edge: 1px solid; }\n.kick { padding: var(--gap); border: var(--edge) transparent; text-wrap: pretty; list-style: "–" inside; }\n.all {',
    ],
    [
      'assets/comments.js',
      "document.addEventListener('submit'",
      "document.addEventListener('comment-shown', () => undefined)\ndocument.addEventListener('submit'",
    ],
  ]
  const texts: Record<string, string> = { ...added }
  for (const [path, part, by] of edits) {
    const before = texts[path] ?? (added[path] === undefined ? await textOf(test.blog, path) : '')
    texts[path] = before.replace(part, () => by)
    expect(texts[path], `${path} has ${String(part)}`).not.toBe(before)
  }
  const saved = await saveTexts(test.blog, texts)
  expect(saved.ok ? [] : saved).toEqual([])
  const { findings, runs } = await test.checks.run()
  expect(runs.filter((one) => one.failed !== null)).toEqual([])
  expect(findings.map((one) => `${one.rule}: ${one.title} ${one.detail}`)).toEqual([])
})
