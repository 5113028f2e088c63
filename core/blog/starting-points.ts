/** Drafts a complete route from a template: its pattern, query and page, as documents that are not saved yet. */
import type { CompiledRoute } from '../routing/addresses/compiled-route.ts'
import { commentsStart } from './comments-start.ts'
import { addRoute } from './edit.ts'
import { STARTING_POINT_PROBLEMS } from './problems.ts'
import { refused, success, type Outcome } from '../shapes/outcome.ts'
import type { DocumentChange } from '../shapes/changes.ts'
import { templatePath } from '../shapes/documents.ts'
import type { Route } from '../shapes/schemas.ts'
import { pagerFor, STARTER_PAGER } from './starter-pager.ts'

export type StartingPointKind = PageKind | 'comments' | 'redirect'
type PageKind = 'listing' | 'single' | 'category' | 'page' | 'month'

export interface StartingPointWish {
  kind: StartingPointKind
  /** Name of the route, its query and its template. */
  name: string
  /**
   * Path, e.g. `/archive`. The parameters that the kind needs are added, unless the path has them. For comments: the path of the
   * route that shows a post, e.g. `/posts/:slug`.
   */
  path: string
  /** Target of a redirect. */
  to?: string
}

interface Recipe {
  parameters: string
  params?: Route['params']
  data(query: string): NonNullable<Route['data']>
  query: string
  /** Content of the page, in Liquid. */
  body: string
  title: string
}

const LIST = (rows: string) => `<ul>
  {%- for post in ${rows} %}
  <li><a href="@post">{{ post.title }}</a>{% if post.publishedAt %} · {{ post.publishedAt | date: '%-d %B %Y' }}{% endif %}</li>
  {%- else %}
  <li>No posts have been published yet.</li>
  {%- endfor %}
</ul>`

const PAGER = '@pager'

const RECIPES: Readonly<Record<PageKind, Recipe>> = {
  listing: {
    parameters: '',
    data: (query) => ({ posts: query }),
    query:
      'from: posts\nwith: [category, author]\nwhere: [published]\norder: [-publishedAt]\ntake: pages\npages: { size: 10 }\n',
    title: 'Posts',
    body: `<h1>Posts</h1>\n${LIST('posts.items')}\n${PAGER}`,
  },
  single: {
    parameters: '/:slug',
    params: { slug: 'slug' },
    data: (query) => ({ post: query }),
    query:
      'from: posts\nwith: [category, author, image, tags]\nwhere:\n  - published\n  - { field: slug, is: equal, to: ":slug" }\ntake: one\nempty: not-found\n',
    title: '{{ post.title }}',
    body: `<article>
  <h1>{{ post.title }}</h1>
  <p>{% if post.publishedAt %}{{ post.publishedAt | date: '%-d %B %Y' }}{% else %}Not published yet{% endif %}{% if post.author %} · {{ post.author.name }}{% endif %}</p>
  {{ post.image | picture: loading: 'eager' }}
  {{ post.html }}
</article>`,
  },
  category: {
    parameters: '/:category',
    params: { category: 'slug' },
    data: (query) => ({ category: `${query}-named`, posts: query }),
    query:
      'from: posts\nwith: [category, author]\nwhere:\n  - published\n  - { field: category.slug, is: equal, to: ":category" }\norder: [-publishedAt]\ntake: pages\npages: { size: 10 }\n',
    title: '{{ category.name }}',
    body: `<h1>{{ category.name }}</h1>\n${LIST('posts.items')}\n${PAGER}`,
  },
  page: {
    parameters: '/:page',
    params: { page: 'path' },
    data: (query) => ({ page: query }),
    query:
      'from: pages\nwith: [parent]\nwhere:\n  - { field: path, is: equal, to: ":page" }\ntake: one\nempty: next-route\n',
    title: '{{ page.title }}',
    body: `<article>\n  <h1>{{ page.title }}</h1>\n  {{ page.html }}\n</article>`,
  },
  month: {
    parameters: '/:year/:month',
    params: { year: 'year', month: 'month' },
    data: (query) => ({ posts: query }),
    query:
      'from: posts\nwith: [category, author]\nwhere:\n  - published\n  - { field: publishedYear, is: equal, to: ":year" }\n  - { field: publishedMonth, is: equal, to: ":month" }\norder: [-publishedAt]\ntake: pages\npages: { size: 50 }\nempty: not-found\n',
    title: '{{ request.params.month }}/{{ request.params.year }}',
    body: `<h1>{{ request.params.month }}/{{ request.params.year }}</h1>\n${LIST('posts.items')}\n${PAGER}`,
  },
}

const CATEGORY_BY_SLUG =
  'from: categories\nwhere:\n  - { field: slug, is: equal, to: ":category" }\ntake: one\nempty: not-found\n'

export interface Surroundings {
  documents: ReadonlyMap<string, string>
  routes: readonly CompiledRoute[]
  /** The documents that comments start from. */
  parts: ReadonlyMap<string, string>
}

/** Returns the changed documents and the new route, or why it cannot be made. */
export function startingPoint(
  wish: StartingPointWish,
  { documents, routes, parts }: Surroundings,
): Outcome<DraftedRoute> {
  if (routes.some((one) => one.route.name === wish.name))
    return refused({ ...IN_ROUTES, ...STARTING_POINT_PROBLEMS['starting-point-name-taken'](wish.name) })
  if (wish.kind === 'comments') {
    const made = commentsStart(wish, { documents, routes, parts })
    return made.ok ? drafted(made.value, made.value.routesText, firstGeneral(routes, wish.kind)) : made
  }
  const base = wish.path.replace(/\/+$/, '')
  const made =
    wish.kind === 'redirect' ? redirect(wish, base) : page(wish, wish.kind, base, { documents, routes })
  if (!made.ok) return made
  return drafted(made.value, documents.get('routes.yaml') ?? '', firstGeneral(routes, wish.kind))
}

/** @param before the route that follows the new one */
function drafted(
  { route, changes }: DraftedRoute,
  routesText: string,
  before: string | undefined,
): Outcome<DraftedRoute> {
  const list = addRoute(routesText, route, before)
  if (list === undefined)
    return refused({ ...IN_ROUTES, ...STARTING_POINT_PROBLEMS['starting-point-routes-not-editable']() })
  return success({ route, changes: [{ document: 'routes.yaml', text: list }, ...changes] })
}

export interface DraftedRoute {
  route: Route
  changes: DocumentChange[]
}

const IN_ROUTES = { file: 'routes.yaml' }

const redirect = ({ name, to = '/' }: StartingPointWish, path: string): Outcome<DraftedRoute> =>
  success({ route: { name, path: path || '/', redirect: { to, status: 301 } }, changes: [] })

function page(
  wish: StartingPointWish,
  kind: PageKind,
  base: string,
  { documents, routes }: Omit<Surroundings, 'parts'>,
): Outcome<DraftedRoute> {
  const recipe = RECIPES[kind]
  const pager = pagerFor(documents)
  const template = `pages/${wish.name}`
  const taken = [`queries/${wish.name}.yaml`, `templates/${template}.liquid`].find((one) =>
    documents.has(one),
  )
  if (taken !== undefined)
    return refused({ file: taken, ...STARTING_POINT_PROBLEMS['starting-point-document-taken'](taken) })
  const changes: DocumentChange[] = [
    { document: `queries/${wish.name}.yaml`, text: recipe.query },
    { document: `templates/${template}.liquid`, text: pageText(recipe, wish, documents, routes, pager.name) },
  ]
  if (pager.isNew && recipe.body.includes(PAGER))
    changes.push({ document: templatePath(pager.name), text: STARTER_PAGER })
  if (kind === 'category')
    changes.push({ document: `queries/${wish.name}-named.yaml`, text: CATEGORY_BY_SLUG })
  return success({
    changes,
    route: {
      name: wish.name,
      path: withParameters(base, recipe.parameters) || '/',
      ...(recipe.params ? { params: recipe.params } : {}),
      data: recipe.data(wish.name),
      template,
    },
  })
}

/** Appends the parameters that a path does not have yet. */
const withParameters = (path: string, parameters: string) =>
  parameters
    .split('/')
    .filter((one) => one !== '' && !new RegExp(`${one}\\b`).test(path))
    .reduce((longer, one) => `${longer}/${one}`, path)

/** Returns the route that matches every path, if there is one: new routes must precede it. */
const firstGeneral = (routes: readonly CompiledRoute[], kind: StartingPointKind): string | undefined =>
  kind === 'page'
    ? undefined
    : routes.find(
        ({ pattern }) =>
          /^\/(?::\w+[+*]?|\*)$/.test(pattern.text) &&
          (pattern.types[0] === 'path' || /[+*]$/.test(pattern.text)),
      )?.route.name

/** Returns the page's template: inside the blog's layout if that has the usual blocks, otherwise a complete page. */
function pageText(
  { title, body }: Recipe,
  wish: StartingPointWish,
  documents: ReadonlyMap<string, string>,
  routes: readonly CompiledRoute[],
  pager: string,
): string {
  const single =
    wish.kind === 'single'
      ? wish.name
      : routes.find(({ route, pattern }) => route.template !== undefined && pattern.names.join() === 'slug')
          ?.route.name
  const paged = body.replace(PAGER, `{% render '${pager}', paged: posts %}`)
  const linked =
    single === undefined
      ? paged.replaceAll('<a href="@post">{{ post.title }}</a>', '{{ post.title }}')
      : paged.replaceAll('@post', `{{ '${single}' | url: slug: post.slug }}`)
  const layout = documents.get('templates/layouts/base.liquid')
  if (layout !== undefined && /\{%-?\s*block main\b/.test(layout)) {
    const titled = /\{%-?\s*block title\b/.test(layout) ? `{% block title %}${title} · {% endblock %}\n` : ''
    const wrapped = `<div class="wrap">\n<main id="content">\n${linked}\n</main>\n</div>`
    return `{% layout 'layouts/base' %}\n${titled}{% block main %}\n${wrapped}\n{% endblock %}\n`
  }
  return `<!doctype html>
<html lang="{{ blog.language }}">
<head>
  <meta charset="utf-8">
  <meta name="viewport" content="width=device-width, initial-scale=1">
  <meta name="color-scheme" content="light dark">
  <link rel="canonical" href="{{ request.canonical }}">
  <title>${title} · {{ blog.title }}</title>
</head>
<body>
<main>
${linked}
</main>
</body>
</html>
`
}
