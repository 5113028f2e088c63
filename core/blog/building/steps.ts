/** The steps in which a blog is built, each drafted as changes of documents that can be read before they are applied. */
import { changeQuery } from '../edit-query.ts'
import { addCondition } from '../edit.ts'
import { atEndOfMain } from '../place-in-page.ts'
import { startingPoint } from '../starting-points.ts'
import { refused, success, type Outcome } from '../../shapes/outcome.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { LOOKS, type DraftedStep } from '../../shapes/building.ts'
import { assetPath, queryPath, templatePath } from '../../shapes/documents.ts'
import type { Problem } from '../../shapes/problem.ts'
import type { Route } from '../../shapes/schemas.ts'
import type { Definition } from '../definition.ts'
import { CARD_QUERY, Drafting, missing, type StepDraft, type StepSurroundings } from './drafting.ts'
import type { Features } from './features.ts'
import { FURTHER_DRAFTS, termPages } from './further-steps.ts'
import { stylesheetOf } from './looks.ts'
import { PAGER } from './markup.ts'
import { feedLink, starterPath, starterTemplate } from './starter-templates.ts'

const STYLESHEET = assetPath('blog.css')

export function draftStep(step: DraftedStep, surroundings: StepSurroundings): Outcome<StepDraft> {
  const drafting = new Drafting(surroundings)
  const problem = DRAFTS[step](drafting)
  return problem ? refused(problem) : success(drafting.result())
}

/** Each function drafts a step. It returns a problem if the step cannot be drafted. */
const DRAFTS: Readonly<Record<DraftedStep, (drafting: Drafting) => Problem | undefined>> = {
  ...FURTHER_DRAFTS,

  layout(drafting) {
    const { parts, blank, look, documents } = drafting.given
    const shipped = parts.get(STYLESHEET) ?? ''
    const base = starterPath('layouts/base')
    const wanted = starterTemplate('layouts/base', drafting.has)
    const layout = documents.get(base)
    if (layout === undefined || layout === blank.get(base)) drafting.put(base, wanted)
    else if (layout !== wanted) drafting.keep(base)
    const css = documents.get(STYLESHEET)
    const looks = LOOKS.map((one) => stylesheetOf(one, shipped))
    if (css === undefined || css === blank.get(STYLESHEET) || looks.includes(css))
      drafting.put(STYLESHEET, stylesheetOf(look, shipped))
    else drafting.keep(STYLESHEET)
    return undefined
  },

  list(drafting) {
    const { has } = drafting
    if (has.list) return undefined
    const query = drafting.query(
      'all-posts',
      `${CARD_QUERY}where: [published]\norder: [-publishedAt]\ntake: first 20\n`,
    )
    const template = `pages/${drafting.free('listing', (name) => templatePath(`pages/${name}`))}`
    const name = drafting.free('posts', queryPath)
    const route: Route = { name, path: `/${name}`, data: { posts: query }, template }
    const after: Features = { ...has, list: { route, data: 'posts', query, isPaged: false } }
    drafting.template('partials/card', after)
    drafting.put(templatePath(template), starterTemplate('pages/listing', after))
    drafting.refresh(after)
    return drafting.route(route)
  },

  post(drafting) {
    const { has } = drafting
    if (has.post) return undefined
    const query = drafting.query(
      'post-by-slug',
      'from: posts\nwith: [category, author, image, tags, commentCount]\nwhere:\n  - published\n  - { field: slug, is: equal, to: ":slug" }\ntake: one\nempty: not-found\n',
    )
    const name = drafting.free('post', queryPath)
    const template = `pages/${drafting.free('post', (one) => templatePath(`pages/${one}`))}`
    const route: Route = {
      name,
      path: `${has.list?.route.path ?? '/posts'}/:slug`,
      params: { slug: 'slug' },
      data: { post: query },
      template,
    }
    const after: Features = { ...has, post: { route, data: 'post', query, parameter: 'slug' } }
    drafting.put(templatePath(template), starterTemplate('pages/post', after))
    drafting.refresh(after)
    linkTitles(drafting, name)
    return drafting.route(route)
  },

  published(drafting) {
    const { routes, queries } = drafting.given.definition
    for (const query of new Set(routes.flatMap(({ route }) => queriesOf(route)))) {
      const meaning = queries.get(query)
      if (meaning?.from !== 'posts' || meaning.named.includes('published')) continue
      drafting.edit(queryPath(query), (text) => addCondition(text, 'published') ?? text)
    }
    return undefined
  },

  pages(drafting) {
    const { has } = drafting
    if (!has.list) return missing('a list of posts')
    const { list } = has
    if (list.isPaged) return undefined
    drafting.edit(queryPath(list.query), (text) => {
      const paged = changeQuery(text, ['take'], 'pages') ?? text
      return changeQuery(paged, ['pages'], { size: 6, 'past-the-end': 'not-found' }) ?? paged
    })
    const after: Features = { ...has, list: { ...list, isPaged: true } }
    drafting.template(PAGER, after)
    drafting.template('partials/page-links', after)
    const isMade = drafting.isAsMade('pages/listing')
    drafting.refresh(after)
    if (!isMade || list.route.template !== 'pages/listing')
      drafting.edit(templatePath(list.route.template ?? ''), (text) => withPager(text, list.data))
    return undefined
  },

  categories: (drafting) => termPages(drafting, 'category'),

  home(drafting) {
    const { has } = drafting
    const { home } = has
    if (!home) return missing('a route for the path “/”')
    let after: Features = has
    if (!has.page) {
      const query = drafting.query(
        'page-by-path',
        'from: pages\nwith: [parent]\nwhere:\n  - { field: path, is: equal, to: ":page" }\ntake: one\nempty: next-route\n',
      )
      const name = drafting.free('page', queryPath)
      const template = `pages/${drafting.free('page', (one) => templatePath(`pages/${one}`))}`
      const route: Route = { name, path: '/:page', params: { page: 'path' }, data: { page: query }, template }
      after = { ...has, page: { route, parameter: 'page' } }
      drafting.put(templatePath(template), starterTemplate('pages/page', after))
      const problem = drafting.route(route)
      if (problem) return problem
    }
    if (!showsPosts(drafting.given.definition, home)) {
      const query = drafting.query(
        'latest-posts',
        `${CARD_QUERY}where: [published]\norder: [-publishedAt]\ntake: first 5\n`,
      )
      drafting.template('partials/card', after)
      const problem = drafting.addData(home, { latest: query })
      if (problem) return problem
      const path = templatePath(home.template ?? '')
      if (drafting.text(path) === drafting.given.blank.get(path))
        drafting.put(path, starterTemplate('pages/home', after))
      else drafting.edit(path, withLatest)
    }
    drafting.template('pages/not-found', after)
    drafting.edit('blog.yaml', (text) =>
      /^not-found:/m.test(text) ? text : `${text.trimEnd()}\nnot-found:\n  template: pages/not-found\n`,
    )
    drafting.refresh(after)
    return undefined
  },

  comments(drafting) {
    const { has } = drafting
    if (has.comments) return undefined
    if (!has.post) return missing('a page for each post')
    const { definition, documents, parts } = drafting.given
    const name = drafting.free('add-comment', queryPath)
    const made = startingPoint(
      { kind: 'comments', name, path: has.post.route.path },
      { documents, routes: definition.routes, parts },
    )
    if (!made.ok) return made.problems[0]
    const isMade = drafting.isAsMade('pages/post')
    for (const { document, text } of made.value.changes) drafting.put(document, text)
    const after: Features = { ...has, comments: made.value.route }
    if (isMade && has.post.route.template === 'pages/post')
      drafting.put(starterPath('pages/post'), starterTemplate('pages/post', after))
    drafting.refresh(after)
    return undefined
  },

  cache(drafting) {
    const card = starterPath('partials/card')
    if (drafting.text(card) === undefined) return missing('a partial “card”')
    drafting.edit(card, (text) =>
      /\{%-?\s*fragment\b/.test(text)
        ? text
        : `{% fragment 'card', lifetime: '1d' %}\n${text.trimEnd()}\n{% endfragment %}\n`,
    )
    return undefined
  },

  machines(drafting) {
    const { has } = drafting
    const wanted: Route[] = []
    if (!has.feed) {
      const query =
        latestQuery(drafting.given.definition) ??
        drafting.query(
          'latest-posts',
          `${CARD_QUERY}where: [published]\norder: [-publishedAt]\ntake: first 20\n`,
        )
      wanted.push({
        name: drafting.free('feed', queryPath),
        path: '/feed.atom',
        data: { posts: query },
        feed: 'atom',
      })
    }
    if (!has.sitemap)
      wanted.push({ name: drafting.free('sitemap', queryPath), path: '/sitemap.xml', sitemap: true })
    if (!has.robots)
      wanted.push({ name: drafting.free('robots', queryPath), path: '/robots.txt', robots: true })
    if (!has.preview && has.post) {
      const { route, data, parameter, query } = has.post
      wanted.push({
        name: drafting.free('post-preview', queryPath),
        path: `${route.path}/preview.png`,
        params: { [parameter]: 'slug' },
        data: { [data]: query },
        preview: {},
      })
    }
    for (const route of wanted) {
      const problem = drafting.route(route)
      if (problem) return problem
    }
    const feed = has.feed ?? wanted.find((one) => one.feed !== undefined)
    const preview = has.preview ?? wanted.find((one) => one.preview !== undefined)
    drafting.refresh({ ...has, feed, preview })
    if (feed)
      drafting.edit(starterPath('layouts/base'), (text) =>
        new RegExp(`['"]${feed.name}['"]\\s*\\|\\s*url`).test(text)
          ? text
          : text.replace(
              /^([ \t]*)<\/head>/m,
              (end, indentation: string) => `${indentation}  ${feedLink(feed)}\n${end}`,
            ),
      )
    return undefined
  },
}

/** Returns a query of a few posts without parameters. */
function latestQuery({ queries }: Definition): string | undefined {
  for (const [name, { from, take, parameters, countBy }] of queries)
    if (from === 'posts' && take.kind === 'first' && parameters.length === 0 && countBy.length === 0)
      return name
  return undefined
}

const showsPosts = ({ queries }: Definition, route: Route): boolean =>
  queriesOf(route).some((name) => queries.get(name)?.from === 'posts')

/** Links the titles of posts in a card that its author has changed, and in the list itself. */
function linkTitles(drafting: Drafting, route: string): void {
  const { list } = drafting.has
  const link = (text: string, post: string) =>
    new RegExp(`['"]${route}['"]\\s*\\|\\s*url`).test(text)
      ? text
      : text.replace(
          new RegExp(`(<(?:h[1-6]|li|p)\\b[^>]*>)\\s*\\{\\{-?\\s*${post}\\.title\\s*-?\\}\\}`),
          (_, open: string) =>
            `${open}<a href="{{ '${route}' | url: slug: ${post}.slug }}">{{ ${post}.title }}</a>`,
        )
  drafting.edit(starterPath('partials/card'), (text) => link(text, 'post'))
  if (list)
    drafting.edit(templatePath(list.route.template ?? ''), (text) => {
      const post = new RegExp(`\\{%-?\\s*for\\s+(\\w+)\\s+in\\s+${list.data}\\b`).exec(text)?.[1]
      return post === undefined ? text : link(text, post)
    })
}

/** Loops over the items of a page, and renders the pager after the loop. */
function withPager(text: string, data: string): string {
  if (!text.includes(`in ${data} %}`)) return text
  const looped = text.replaceAll(`in ${data} %}`, `in ${data}.items %}`)
  const at = looped.lastIndexOf('{% endfor %}')
  const end = at === -1 ? looped.search(/\{%-\s*endfor\s*-?%\}/) : at
  if (end === -1) return looped
  const after = looped.indexOf('%}', end) + 2
  return `${looped.slice(0, after)}\n{% render '${PAGER}', paged: ${data} %}${looped.slice(after)}`
}

/** Shows the latest posts at the end of the main part of a page. */
const withLatest = (text: string) =>
  atEndOfMain(
    text,
    `<h2>Latest</h2>\n{% for post in latest %}\n{% render 'partials/card', post: post %}\n{% endfor %}\n`,
  )
