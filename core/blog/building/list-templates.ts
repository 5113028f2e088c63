/** Templates of lists of posts, by category, author, tag and month, of the search, and of what leads from one post to others. */
import type { Features } from './features.ts'
import {
  authorAddress,
  cards,
  inLayout,
  lines,
  linked,
  listPage,
  PAGER,
  postAddress,
  tagAddress,
} from './markup.ts'

/** The tags of a post, each with a link. @param of the name of the post */
export const tagList = (has: Features, of: string): string =>
  `      {% if ${of}.tags.size > 0 %}<ul class="tags" aria-label="Tags">{% for tag in ${of}.tags %}<li>${linked(tagAddress(has, 'tag'), '{{ tag.name }}')}</li>{% endfor %}</ul>{% endif %}`

/** Who wrote a post, with a link to the other posts of the author. @param of the name of the post */
export const authorBox = (has: Features, of: string): string =>
  lines(
    `    {% if ${of}.author %}`,
    '    <section class="author">',
    '      <h2 class="section">Written by</h2>',
    `      <p>${linked(authorAddress(has, `${of}.author`), `{{ ${of}.author.name }}`)}</p>`,
    `      {% if ${of}.author.about != '' %}`,
    `      <p class="about">{{ ${of}.author.about }}</p>`,
    '      {% endif %}',
    '    </section>',
    '    {% endif %}',
  ).trimEnd()

/** The texts of links between pages that are not sorted by date, as arguments of the pager. */
export const BY_RELEVANCE = ", newer: 'Previous', older: 'Next'"

/** Links to the posts before and after a post. */
export const neighbours = (has: Features, { older, newer }: NonNullable<Features['neighbours']>): string => {
  const link = (of: string, rel: string, sign: (title: string) => string) =>
    `      {% if ${of} %}<a rel="${rel}" href="${postAddress(has, of) ?? ''}">${sign(`{{ ${of}.title }}`)}</a>{% endif %}`
  return lines(
    `    {% if ${older} or ${newer} %}`,
    '    <nav class="pager" aria-label="Other posts">',
    link(older, 'prev', (title) => `← ${title}`),
    link(newer, 'next', (title) => `${title} →`),
    '    </nav>',
    '    {% endif %}',
  ).trimEnd()
}

/** The short address of a post, which stays if its slug changes. */
export const numberedLink = ({ numbered }: Features, of: string): string =>
  numbered
    ? `    <p class="meta">Short address: <a href="{{ '${numbered.route.name}' | url: ${numbered.parameter}: ${of}.id }}">{{ '${numbered.route.name}' | url: ${numbered.parameter}: ${of}.id }}</a></p>`
    : ''

/** Links to posts, with a heading; nothing without posts. */
const linksTo = (has: Features, rows: string, heading: string): string =>
  lines(
    `    {% if ${rows}.size > 0 %}`,
    '    <section>',
    `      <h2 class="section">${heading}</h2>`,
    '      <ul class="dated">',
    `        {% for other in ${rows} %}`,
    `        <li>${linked(postAddress(has, 'other'), '{{ other.title }}')}</li>`,
    '        {% endfor %}',
    '      </ul>',
    '    </section>',
    '    {% endif %}',
  ).trimEnd()

export const related = (has: Features, rows: string): string => linksTo(has, rows, 'Related posts')

export const popular = (has: Features, rows: string): string => linksTo(has, rows, 'Most commented')

const about = (text: string) => `{% block description %}${text}{% endblock %}\n`

const category = (): string =>
  listPage(
    '{{ category.name }}',
    [cards('posts.items', 'Nothing about {{ category.name }} has been published yet.')],
    about('Posts about {{ category.name }}'),
  )

const author = (): string =>
  listPage(
    '{{ author.name }}',
    [
      '    {% if author.about != \'\' %}\n    <p class="about">{{ author.about }}</p>\n    {% endif %}',
      cards('posts.items', 'Nothing by {{ author.name }} has been published yet.'),
    ],
    about('Posts by {{ author.name }}'),
  )

const tag = (): string =>
  listPage(
    'Tagged “{{ tag.name }}”',
    [cards('posts.items', 'Nothing with this tag has been published yet.')],
    about('Posts tagged “{{ tag.name }}”'),
  )

/** One line without an end, because it is printed in titles and attributes. */
const MONTH_NAME =
  "{% assign names = 'January,February,March,April,May,June,July,August,September,October,November,December' | split: ',' %}{% assign at = month | minus: 1 %}{{ names[at] }} {{ year }}"

const monthTitle = ({ month }: Features) =>
  month
    ? `{% render 'partials/month-name', year: request.params.${month.year}, month: request.params.${month.month} %}`
    : ''

const month = (has: Features): string =>
  listPage(
    monthTitle(has),
    [cards('posts.items', 'Nothing was published in this month.')],
    about(`Posts of ${monthTitle(has)}`),
  )

const archive = ({ month }: Features): string =>
  inLayout(
    'Archive',
    `    <h1 class="section">Archive</h1>
    <ul class="dated">
      {% for one in months %}
      <li>${linked(
        month &&
          `{{ '${month.route.name}' | url: ${month.year}: one.publishedYear, ${month.month}: one.publishedMonth }}`,
        "{% render 'partials/month-name', year: one.publishedYear, month: one.publishedMonth %}",
      )} <span>{{ one.count }}</span></li>
      {% else %}
      <li>Nothing has been published yet.</li>
      {% endfor %}
    </ul>`,
  )

const search = (has: Features): string => {
  const { route, parameter = 'q', data = 'posts' } = has.search ?? {}
  const asked = `request.params.${parameter}`
  return inLayout(
    `{% if ${asked} %}{{ ${asked} | excerpt: 60 }} · {% endif %}Search`,
    `    <h1 class="section">Search</h1>
    <form class="search" role="search" action="{{ '${route?.name ?? 'search'}' | url }}">
      <div>
        <label for="${parameter}">Words to search for</label>
        <input id="${parameter}" name="${parameter}" type="search" maxlength="500" value="{{ ${asked} }}">
      </div>
      <button>Search</button>
    </form>
    {% for post in ${data}.items %}
    <article class="found">
      <h2>${linked(postAddress(has, 'post'), '{{ post.title }}')}</h2>
      <p>{{ post.found | raw }}</p>
    </article>
    {% else %}
    {% if ${data}.isTooBroad %}
    <p class="empty">This search would take too long just now. Use fewer words, or try again in a moment.</p>
    {% elsif ${asked} %}
    <p class="empty">Nothing matches “{{ ${asked} | excerpt: 80 }}”. Use fewer or other words.</p>
    {% else %}
    <p class="empty">All words must occur. Use “quotes” for a phrase, and -word to exclude a word.</p>
    {% endif %}
    {% endfor %}
    {% render '${PAGER}', paged: ${data}${BY_RELEVANCE} %}`,
    `{% block links %}{% render 'partials/page-links', paged: ${data} %}{% endblock %}\n`,
  )
}

/** Name of a template → its writer. */
export const LIST_WRITERS = {
  'pages/category': category,
  'pages/author': author,
  'pages/tag': tag,
  'partials/month-name': () => MONTH_NAME,
  'pages/month': month,
  'pages/archive': archive,
  'pages/search': search,
} satisfies Record<string, (has: Features) => string>
