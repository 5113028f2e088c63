/**
 * The templates of the steps, written for the features that a blog has: a link to a category is there once categories have
 * addresses. They are semantic HTML, need no script, and begin with a link that skips to the content.
 */
import { templatePath } from '../../shapes/documents.ts'
import { STARTER_PAGER } from '../starter-pager.ts'
import type { Route } from '../../shapes/schemas.ts'
import type { Features } from './features.ts'
import { aside, asideTag } from './aside-template.ts'
import {
  authorBox,
  LIST_WRITERS,
  neighbours,
  numberedLink,
  popular,
  related,
  tagList,
} from './list-templates.ts'
import {
  authorAddress,
  cards,
  categoryAddress,
  inLayout,
  lines,
  linked,
  pageAddress,
  PAGER,
  pagedTitle,
  postAddress,
} from './markup.ts'

/** Whether the menu marks the page that is shown. */
const current = (condition: string) => `{% if ${condition} %} aria-current="page"{% endif %}`

/** An entry of the menu. */
const menuEntry = ({ name }: Route, text: string) =>
  `        <a href="{{ '${name}' | url }}"${current(`request.route == '${name}'`)}>${text}</a>`

const FEED_TYPE = {
  atom: 'application/atom+xml',
  rss: 'application/rss+xml',
  json: 'application/feed+json',
} as const

/** The element by which feed readers find a feed. */
export const feedLink = ({ name, feed = 'atom' }: Route): string =>
  `<link rel="alternate" type="${FEED_TYPE[feed]}" title="{{ blog.title }}" href="{{ '${name}' | url }}">`

/** A mark for the tab. Without one, browsers request /favicon.ico, which is not there. */
const ICON =
  "data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 16 16'%3E%3Crect width='16' height='16' rx='3' fill='%23b3471d'/%3E%3Cpath d='M4 5h8M4 8h8M4 11h5' stroke='%23fff' stroke-width='1.6'/%3E%3C/svg%3E"

const base = (has: Features): string => {
  const home = has.home ? `{{ '${has.home.name}' | url }}` : '/'
  const list = has.list?.route
  const page = pageAddress(has, 'item')
  const entries = lines(
    list && menuEntry(list, list.heading ?? 'Posts'),
    page &&
      `        {% for item in navigation %}
        <a href="${page}"${current(`request.params.${has.page?.parameter ?? ''} == item.path`)}>{{ item.title }}</a>
        {% endfor %}`,
    has.archive && menuEntry(has.archive, 'Archive'),
    has.search && menuEntry(has.search.route, 'Search'),
  )
  const hasMenu = [list, page, has.archive, has.search].some((one) => one !== undefined)
  return lines(
    `<!doctype html>
<html lang="{{ blog.language }}">
<head>
  <meta charset="utf-8">
  <meta name="viewport" content="width=device-width, initial-scale=1">
  <title>{% block title %}{% endblock %}{{ blog.title }}</title>
  <meta name="description" content="{% block description %}{{ blog.tagline | default: blog.title }}{% endblock %}">
  <meta name="color-scheme" content="light dark">
  {% if request.route != 'not-found' %}<link rel="canonical" href="{{ request.canonical }}">{% endif %}
  {% if blog.origin != '' %}
  <meta property="og:url" content="{{ request.canonical }}">
  {% endif %}
  <meta property="og:site_name" content="{{ blog.title }}">
  <meta property="og:type" content="{% block kind %}website{% endblock %}">
  <meta property="og:title" content="{% block title %}{% endblock %}{{ blog.title }}">
  <meta property="og:description" content="{% block description %}{{ blog.tagline | default: blog.title }}{% endblock %}">
  {% block links %}{% endblock %}${has.feed ? `\n  ${feedLink(has.feed)}` : ''}
  <link rel="icon" href="${ICON}">
  <link rel="preload" href="/fonts/overpass.woff2" as="font" type="font/woff2" crossorigin>
  <link rel="preload" href="/fonts/literata.woff2" as="font" type="font/woff2" crossorigin>
  <link rel="stylesheet" href="{{ 'blog.css' | asset }}">
</head>
<body>
  <a class="skip" href="#content">Skip to content</a>
  <header class="top">
    <div class="wrap">
      <a class="brand" href="${home}">{{ blog.title }}</a>`,
    hasMenu && `      <nav aria-label="Main">\n${entries.trimEnd()}\n      </nav>`,
    `    </div>
  </header>
  {% block main %}{% endblock %}${has.aside ? `\n${asideTag(has.aside)}` : ''}
  <footer class="foot">
    <div class="wrap">
      <p><strong>{{ blog.title }}</strong>{% if blog.tagline != '' %} · {{ blog.tagline }}{% endif %}</p>
    </div>
  </footer>
</body>
</html>`,
  )
}

/** The facts below a title: date, author, category. */
const facts = (has: Features) =>
  [
    `{% if post.publishedAt %}<time datetime="{{ post.publishedAt }}">{{ post.publishedAt | date: '%-d %B %Y' }}</time>{% else %}Not published yet{% endif %}`,
    `{% if post.author %} · ${linked(authorAddress(has, 'post.author'), '{{ post.author.name }}')}{% endif %}`,
    has.comments &&
      ' · {{ post.commentCount }} {% if post.commentCount == 1 %}comment{% else %}comments{% endif %}',
  ]
    .filter((one) => one !== undefined)
    .join('')

const kick = (has: Features, of: string) =>
  has.category &&
  `{% if ${of}.category %}${linked(categoryAddress(has, `${of}.category`), `{{ ${of}.category.name }}`, ' class="kick"')}{% endif %}`

const card = (has: Features): string => {
  const address = postAddress(has, 'post')
  const image = `{{ post.image | picture: text: '', sizes: '148px' }}`
  const picture = address
    ? `<a class="picture" href="${address}" tabindex="-1" aria-hidden="true">${image}</a>`
    : `<span class="picture">${image}</span>`
  return lines(
    '<article class="card{% unless post.image %} no-image{% endunless %}">',
    `  {% if post.image %}${picture}{% endif %}`,
    '  <div>',
    has.category && `    ${kick(has, 'post') ?? ''}`,
    `    <h2>${linked(address, '{{ post.title }}')}</h2>`,
    '    <p>{{ post.excerpt | excerpt: 120 }}</p>',
    `    <p class="meta">${facts(has)}</p>`,
    '  </div>',
    '</article>',
  )
}

const listing = ({ list }: Features): string => {
  const { data = 'posts', isPaged = false, route } = list ?? {}
  const heading = route?.heading === undefined ? 'Posts' : '{{ heading }}'
  const rows = isPaged ? `${data}.items` : data
  return inLayout(
    isPaged ? pagedTitle(heading, data) : heading,
    lines(
      `    <h1 class="section">${heading}</h1>`,
      cards(rows, 'Nothing has been published yet.'),
      isPaged && `    {% render '${PAGER}', paged: ${data} %}`,
    ).trimEnd(),
    isPaged ? `{% block links %}{% render 'partials/page-links', paged: ${data} %}{% endblock %}\n` : '',
  )
}

/** The table of contents of a post with several parts. */
const CONTENTS = `      {% assign parts = post.html | headings | where: 'level', 2 %}
      {% if parts.size > 2 %}
      <nav class="contents" aria-label="Contents">
        <ol>
          {% for part in parts %}
          <li><a href="#{{ part.id }}">{{ part.text }}</a></li>
          {% endfor %}
        </ol>
      </nav>
      {% endif %}`

/** The image that is shown where the address of a post is shared. Drawings are not, so the post's title is drawn instead. */
const sharedImage = ({ preview, post }: Features): string => {
  const own = '/media/{{ post.image.name }}'
  if (!preview || !post)
    return `{% if post.image and blog.origin != '' %}<meta property="og:image" content="{{ blog.origin }}${own}">{% endif %}`
  const drawn = `{% assign drawn = '${preview.name}' | url: ${post.parameter}: post.slug %}`
  const address = `{% if post.image %}{% if post.image.name contains '.svg' %}{{ drawn }}{% else %}${own}{% endif %}{% else %}{{ drawn }}{% endif %}`
  return `{% if blog.origin != '' %}${drawn}<meta property="og:image" content="{{ blog.origin }}${address}">{% endif %}`
}

const post = (has: Features): string =>
  inLayout(
    '{{ post.title }}',
    lines(
      '    <article class="post">',
      '      <header>',
      has.category && `        ${kick(has, 'post') ?? ''}`,
      '        <h1>{{ post.title }}</h1>',
      `        <p class="meta">${facts({ ...has, comments: undefined })} · {{ post.wordCount | reading_minutes }} min</p>`,
      '      </header>',
      `      {{ post.image | picture: class: 'lead', loading: 'eager', sizes: '(min-width: 48rem) 44rem, 100vw' }}`,
      CONTENTS,
      '      <div class="text">{{ post.html }}</div>',
      has.tag && tagList(has, 'post'),
      '    </article>',
      has.numbered && numberedLink(has, 'post'),
      has.author && authorBox(has, 'post'),
      has.neighbours && neighbours(has, has.neighbours),
      has.related !== undefined && related(has, has.related),
      has.comments &&
        "    {% render 'partials/comments', post: post, comments: comments, form: form %}\n    <script src=\"{{ 'comments.js' | asset }}\" defer></script>",
    ).trimEnd(),
    `{% block description %}{{ post.excerpt | excerpt: 150 }}{% endblock %}
{% block kind %}article{% endblock %}
{% block links %}
  ${sharedImage(has)}
  {{ post | structured_data }}
{% endblock %}
`,
  )

const home = (has: Features): string =>
  homeWith(has.list, has.popular === undefined ? '' : `${popular(has, has.popular)}\n`)

const homeWith = (list: Features['list'], more: string): string => `{% layout 'layouts/base' %}
{% block links %}
  {{ blog | structured_data }}
{% endblock %}
{% block main %}
<main id="content">
  <div class="hero">
    <div class="wrap">
      <h1>{{ blog.title }}</h1>
      {% if blog.tagline != '' %}
      <p>{{ blog.tagline }}</p>
      {% endif %}
    </div>
  </div>
  <div class="wrap narrow">
    <section>
    <h2 class="section">Latest</h2>
${cards('latest', 'Nothing has been published yet.')}
${list ? `    <p class="all"><a href="{{ '${list.route.name}' | url }}">All posts</a></p>\n` : ''}    </section>
${more}  </div>
</main>
{% endblock %}
`

const page = (): string =>
  inLayout(
    '{{ page.title }}',
    `    <article class="post">
      <header><h1>{{ page.title }}</h1></header>
      <div class="text">{{ page.html }}</div>
    </article>`,
  )

const notFound = ({ list }: Features): string =>
  inLayout(
    'Not found',
    `    <h1>Page not found</h1>
    {% if nearest.size > 0 %}
    <p>Did you mean one of these?</p>
    <ul>
      {% for one in nearest %}
      <li><a href="{{ one.path }}">{{ one.title | default: one.path }}</a></li>
      {% endfor %}
    </ul>
    {% endif %}
${list ? `    <p><a href="{{ '${list.route.name}' | url }}">All posts</a></p>` : '    <p><a href="/">Home</a></p>'}`,
  )

const PAGE_LINKS = `{% if paged.previous %}<link rel="prev" href="{{ paged.previous.url }}">
{% endif %}{% if paged.next %}<link rel="next" href="{{ paged.next.url }}">
{% endif %}
`

const WRITERS = {
  'layouts/base': base,
  'partials/card': card,
  [PAGER]: () => STARTER_PAGER,
  'partials/page-links': () => PAGE_LINKS,
  'pages/listing': listing,
  'pages/post': post,
  'pages/home': home,
  'pages/page': page,
  'pages/not-found': notFound,
  'partials/aside': aside,
  ...LIST_WRITERS,
} satisfies Record<string, (has: Features) => string>

export type StarterTemplate = keyof typeof WRITERS

export const STARTER_TEMPLATES = Object.keys(WRITERS) as StarterTemplate[]

export const starterPath = (name: StarterTemplate): string => templatePath(name)

/** Returns the text of a template for the features of a blog. */
export const starterTemplate = (name: StarterTemplate, has: Features): string => WRITERS[name](has)
