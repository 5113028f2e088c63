/** What the templates of the steps have in common: addresses and links of rows, pages in the layout, and lists. */
import type { Features } from './features.ts'

export const PAGER = 'partials/pager'

/** Joins the parts that a template has. */
export const lines = (...parts: readonly (string | false | undefined)[]): string =>
  `${parts.filter((one) => typeof one === 'string').join('\n')}\n`

/** Returns the expression for the address of a row. */
const addressOf = (route: string, parameter: string, value: string) =>
  `{{ '${route}' | url: ${parameter}: ${value} }}`

export const postAddress = ({ post }: Features, of: string) =>
  post && addressOf(post.route.name, post.parameter, `${of}.slug`)
export const categoryAddress = ({ category }: Features, of: string) =>
  category && addressOf(category.route.name, category.parameter, `${of}.slug`)
export const authorAddress = ({ author }: Features, of: string) =>
  author && addressOf(author.route.name, author.parameter, `${of}.slug`)
export const tagAddress = ({ tag }: Features, of: string) =>
  tag && addressOf(tag.route.name, tag.parameter, `${of}.slug`)
export const pageAddress = ({ page }: Features, of: string) =>
  page && addressOf(page.route.name, page.parameter, `${of}.path`)

/** Links a text if there is an address. */
export const linked = (address: string | undefined, text: string, attributes = '') =>
  address === undefined ? text : `<a${attributes} href="${address}">${text}</a>`

/** A page in the layout. */
export const inLayout = (title: string, main: string, blocks = ''): string =>
  `{% layout 'layouts/base' %}
{% block title %}${title} · {% endblock %}
${blocks}{% block main %}
<div class="wrap narrow">
  <main id="content">
${main}
  </main>
</div>
{% endblock %}
`

export const cards = (rows: string, empty: string) => `    {% for post in ${rows} %}
    {% render 'partials/card', post: post %}
    {% else %}
    <p class="empty">${empty}</p>
    {% endfor %}`

export const pagedTitle = (title: string, data: string) =>
  `${title}{% if ${data}.page > 1 %}, page {{ ${data}.page }}{% endif %}`

/** Returns a page of a list of posts. @param blocks more blocks of the layout */
export const listPage = (heading: string, parts: readonly (string | false)[], blocks = ''): string =>
  inLayout(
    pagedTitle(heading, 'posts'),
    lines(
      `    <h1 class="section">${heading}</h1>`,
      ...parts,
      `    {% render '${PAGER}', paged: posts %}`,
    ).trimEnd(),
    `${blocks}{% block links %}{% render 'partials/page-links', paged: posts %}{% endblock %}\n`,
  )
