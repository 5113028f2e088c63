/** Steps for a blog that has the first ones: more lists, search, and what leads from one post to others. */
import { fetchAlso } from '../edit-query.ts'
import type { FurtherStep } from '../../shapes/building.ts'
import { queryPath, templatePath } from '../../shapes/documents.ts'
import type { Problem } from '../../shapes/problem.ts'
import type { DataEntry, Route } from '../../shapes/schemas.ts'
import { CARD_QUERY, missing, type Drafting } from './drafting.ts'
import { asideTag } from './aside-template.ts'
import type { Features } from './features.ts'
import { belowArticle, atEndOfMain } from '../place-in-page.ts'
import {
  authorBox,
  BY_RELEVANCE,
  neighbours,
  numberedLink,
  popular,
  related,
  tagList,
} from './list-templates.ts'
import { PAGER } from './markup.ts'
import { starterTemplate, type StarterTemplate } from './starter-templates.ts'

const PAGES = 'order: [-publishedAt]\ntake: pages\npages: { size: 6, past-the-end: not-found }\n'

/** Each function drafts a step. It returns a problem if the step cannot be drafted. */
export const FURTHER_DRAFTS: Readonly<Record<FurtherStep, (drafting: Drafting) => Problem | undefined>> = {
  authors(drafting) {
    const { post, author } = drafting.has
    if (author) return undefined
    const problem = termPages(drafting, 'author')
    if (problem || !post) return problem
    drafting.edit(queryPath(post.query), (text) => fetchAlso(text, 'author'))
    const { route, data } = post
    // A page that its author has written gets the box below the article.
    if (!isAsMade(drafting, route))
      drafting.edit(templatePath(route.template ?? ''), (text) =>
        text.includes(`${data}.author.about`)
          ? text
          : belowArticle(text, `${authorBox(drafting.after, data)}\n`),
      )
    return undefined
  },

  tags(drafting) {
    const { post, tag } = drafting.has
    if (tag) return undefined
    const problem = termPages(drafting, 'tag')
    if (problem || !post) return problem
    drafting.edit(queryPath(post.query), (text) => fetchAlso(text, 'tags'))
    const { route, data } = post
    // A page that its author has written gets the list of its tags.
    if (!isAsMade(drafting, route))
      drafting.edit(templatePath(route.template ?? ''), (text) =>
        text.includes(`${data}.tags`) ? text : belowArticle(text, `${tagList(drafting.after, data)}\n`),
      )
    return undefined
  },

  archive(drafting) {
    const { has } = drafting
    if (has.archive && has.month) return undefined
    if (!has.list) return missing('a list of posts')
    let after: Features = has
    const added: Route[] = []
    if (!has.month) {
      const query = drafting.query(
        'posts-of-month',
        `${CARD_QUERY}where:\n  - published\n  - { field: publishedYear, is: equal, to: ":year" }\n  - { field: publishedMonth, is: equal, to: ":month" }\n${PAGES}`,
      )
      const route: Route = {
        name: drafting.free('month', queryPath),
        path: '/archive/:year/:month',
        params: { year: 'year', month: 'month' },
        data: { posts: query },
        template: freeTemplate(drafting, 'month'),
      }
      after = { ...after, month: { route, year: 'year', month: 'month' } }
      added.push(route)
      cardParts(drafting, after)
    }
    if (!has.archive) {
      const query = drafting.query(
        'posts-by-month',
        'from: posts\nwhere: [published]\ncount-by: [publishedYear, publishedMonth]\norder: [-publishedYear, -publishedMonth]\ntake: all\n',
      )
      const route: Route = {
        name: drafting.free('archive', queryPath),
        path: '/archive',
        data: { months: query },
        template: freeTemplate(drafting, 'archive'),
      }
      after = { ...after, archive: route }
      added.push(route)
    }
    drafting.template('partials/month-name', after)
    for (const route of added) {
      const wanted: StarterTemplate = route === after.archive ? 'pages/archive' : 'pages/month'
      drafting.put(templatePath(route.template ?? ''), starterTemplate(wanted, after))
      const problem = drafting.route(route)
      if (problem) return problem
    }
    drafting.refresh(after)
    return undefined
  },

  search(drafting) {
    const { has } = drafting
    if (has.search) return undefined
    if (!has.post) return missing('a page for each post')
    const query = drafting.query(
      'search-posts',
      'from: posts\nwith: [category]\nwhere:\n  - published\n  - { field: words, is: matches, to: ":q" }\norder: [-relevance, -publishedAt]\ntake: pages\npages: { size: 6, past-the-end: not-found, count: estimated }\n',
    )
    const route: Route = {
      name: drafting.free('search', queryPath),
      path: '/search',
      query: { q: 'text' },
      data: { posts: query },
      template: freeTemplate(drafting, 'search'),
    }
    const after: Features = { ...has, search: { route, parameter: 'q', data: 'posts' } }
    drafting.template(PAGER, after)
    drafting.template('partials/page-links', after)
    const text = starterTemplate('pages/search', after)
    // A pager that the author has written has texts of its own.
    const isOwnPager = !/\bolder\b/.test(drafting.text(templatePath(PAGER)) ?? '')
    drafting.put(templatePath(route.template ?? ''), isOwnPager ? text.replace(BY_RELEVANCE, '') : text)
    drafting.refresh(after)
    return drafting.route(route)
  },

  related(drafting) {
    const { has } = drafting
    if (has.related !== undefined) return undefined
    if (!has.post) return missing('a page for each post')
    const { data } = has.post
    drafting.edit(queryPath(has.post.query), (text) => fetchAlso(text, 'category'))
    const query = drafting.query(
      'more-in-category',
      'from: posts\nwhere:\n  - published\n  - { field: category.slug, is: equal, to: ":category" }\n  - { field: slug, is: not-equal, to: ":except" }\norder: [-publishedAt]\ntake: first 3\n',
    )
    return onPost(drafting, {
      data: {
        related: { query, with: { category: `${data}.category.slug`, except: `${data}.slug` } },
      },
      after: { related: 'related' },
      shown: (after) => related(after, 'related'),
    })
  },

  neighbours(drafting) {
    const { has } = drafting
    if (has.neighbours) return undefined
    if (!has.post) return missing('a page for each post')
    const { data } = has.post
    const beside = (name: string, is: string, order: string) =>
      drafting.query(
        name,
        // The database keeps more digits of a time than templates see, so the post itself could come before itself.
        `from: posts\nwhere:\n  - published\n  - { field: publishedAt, is: ${is}, to: ":at" }\n  - { field: slug, is: not-equal, to: ":except" }\norder: [${order}]\ntake: one\nempty: allow\n`,
      )
    const to = (query: string): DataEntry => ({
      query,
      with: { at: `${data}.publishedAt`, except: `${data}.slug` },
    })
    return onPost(drafting, {
      data: {
        older: to(beside('post-before', 'less', '-publishedAt')),
        newer: to(beside('post-after', 'more', 'publishedAt')),
      },
      after: { neighbours: { older: 'older', newer: 'newer' } },
      shown: (after) => neighbours(after, { older: 'older', newer: 'newer' }),
    })
  },

  popular(drafting) {
    const { has } = drafting
    if (has.popular !== undefined) return undefined
    if (!has.home) return missing('a route for the path “/”')
    if (!has.post) return missing('a page for each post')
    const query = drafting.query(
      'most-commented-posts',
      'from: posts\nwith: [commentCount]\nwhere: [published]\norder: [-commentCount, -publishedAt]\ntake: first 5\n',
    )
    const route: Route = { ...has.home, data: { ...has.home.data, popular: query } }
    const after: Features = { ...has, home: route, popular: 'popular' }
    const path = templatePath(route.template ?? '')
    if (route.template === 'pages/home' && drafting.isAsMade('pages/home')) drafting.refresh(after)
    else drafting.edit(path, (text) => atEndOfMain(text, `${popular(after, 'popular')}\n`))
    return drafting.addData(has.home, { popular: query })
  },

  aside(drafting) {
    const { has } = drafting
    if (has.aside || has.hasOwnAside) return undefined
    const wanted = [
      ...(has.category ? (['categories'] as const) : []),
      ...(has.month ? (['months'] as const) : []),
      ...(has.comments ? (['comments'] as const) : []),
    ]
    if (wanted.length === 0) return missing('categories, an archive or comments')
    const data = Object.fromEntries(
      wanted.map((one) => {
        const { name, query: called, text } = ASIDE_QUERIES[one]
        const query = drafting.query(called, text)
        return [one, { name: drafting.freeShared(name, query), query }]
      }),
    )
    const added = drafting.addSharedData(
      Object.fromEntries(Object.values(data).map(({ name, query }) => [name, query])),
    )
    if (added) return added
    const { categories, months, comments } = data
    const aside = { categories: categories?.name, months: months?.name, comments: comments?.name }
    const after: Features = { ...has, aside }
    if (has.month) drafting.template('partials/month-name', after)
    drafting.put(templatePath('partials/aside'), starterTemplate('partials/aside', after))
    drafting.refresh(after)
    // A layout that its author has changed gets the aside before its footer, or at its end.
    drafting.edit(templatePath('layouts/base'), (text) =>
      text.includes("render 'partials/aside'")
        ? text
        : text.replace(/^(?=[ \t]*(<footer\b|<\/body>))/m, `${asideTag(aside)}\n`),
    )
    return undefined
  },

  numbered(drafting) {
    const { has } = drafting
    if (has.numbered) return undefined
    if (!has.post) return missing('a page for each post')
    const { route: page, parameter, data } = has.post
    const query = drafting.query(
      'post-by-number',
      'from: posts\nwhere:\n  - published\n  - { field: id, is: equal, to: ":number" }\ntake: one\nempty: not-found\n',
    )
    const route: Route = {
      name: drafting.free('post-by-number', (name) => name),
      path: '/p/:number',
      params: { number: 'integer' },
      data: { post: query },
      redirect: { to: page.path.replace(`:${parameter}`, ':post.slug') },
    }
    const after: Features = { ...has, numbered: { route, parameter: 'number' } }
    if (isAsMade(drafting, page)) drafting.refresh(after)
    else
      drafting.edit(templatePath(page.template ?? ''), (text) =>
        belowArticle(text, `${numberedLink(after, data)}\n`),
      )
    return drafting.route(route)
  },
}

const freeTemplate = (drafting: Drafting, name: string) =>
  `pages/${drafting.free(name, (one) => templatePath(`pages/${one}`))}`

/** Adds what lists of cards render. */
function cardParts(drafting: Drafting, after: Features): void {
  drafting.template('partials/card', after)
  drafting.template(PAGER, after)
  drafting.template('partials/page-links', after)
}

/** Adds a page for each author, each tag or each category, with the posts that have it. */
export function termPages(drafting: Drafting, term: keyof typeof TERMS): Problem | undefined {
  const { has } = drafting
  if (has[term]) return undefined
  if (!has.list) return missing('a list of posts')
  const { source, posts, field, is } = TERMS[term]
  const named = drafting.query(
    `${term}-by-slug`,
    `from: ${source}\nwhere:\n  - { field: slug, is: equal, to: ":${term}" }\ntake: one\nempty: not-found\n`,
  )
  const query = drafting.query(
    posts,
    `${CARD_QUERY}where:\n  - published\n  - { field: ${field}, is: ${is}, to: ":${term}" }\n${PAGES}`,
  )
  const name = drafting.free(term, queryPath)
  const route: Route = {
    name,
    path: `/${name}/:${term}`,
    params: { [term]: 'slug' },
    data: { [term]: named, posts: query },
    template: freeTemplate(drafting, term),
  }
  const after: Features = { ...has, [term]: { route, parameter: term } }
  cardParts(drafting, after)
  drafting.put(templatePath(route.template ?? ''), starterTemplate(`pages/${term}`, after))
  drafting.refresh(after)
  return drafting.route(route)
}

/** Posts of a category are also those of the categories below it. */
const TERMS = {
  category: { source: 'categories', posts: 'posts-in-category', field: 'category.slug', is: 'within' },
  author: { source: 'authors', posts: 'posts-by-author', field: 'author.slug', is: 'equal' },
  tag: { source: 'tags', posts: 'posts-with-tag', field: 'tags.slug', is: 'equal' },
} as const

/** Queries of the aside, each with the name of its rows in templates. */
const ASIDE_QUERIES = {
  categories: {
    query: 'category-counts',
    name: 'categories',
    text: 'from: categories\nwith: [parent, postCountWithin]\norder: [position, name]\ntake: all\n',
  },
  months: {
    query: 'posts-by-month',
    name: 'months',
    text: 'from: posts\nwhere: [published]\ncount-by: [publishedYear, publishedMonth]\norder: [-publishedYear, -publishedMonth]\ntake: all\n',
  },
  comments: {
    query: 'latest-comments',
    name: 'latestComments',
    text: 'from: comments\nwith: [post]\nwhere: [shown]\norder: [-createdAt]\ntake: first 3\n',
  },
} as const

/** Whether the page of a post is the one that the steps have made. */
const isAsMade = (drafting: Drafting, { template }: Route) =>
  template === 'pages/post' && drafting.isAsMade('pages/post')

interface OnPost {
  /** More data of the route of a post. */
  data: Record<string, DataEntry>
  after: Partial<Features>
  /** Returns what shows it. */
  shown(after: Features): string
}

/** Adds data to the page of a post, and shows it below the article. */
function onPost(drafting: Drafting, { data, after: more, shown }: OnPost): Problem | undefined {
  const { has } = drafting
  if (!has.post) return missing('a page for each post')
  const route: Route = { ...has.post.route, data: { ...has.post.route.data, ...data } }
  const after: Features = { ...has, ...more, post: { ...has.post, route } }
  if (isAsMade(drafting, route)) drafting.refresh(after)
  else drafting.edit(templatePath(route.template ?? ''), (text) => belowArticle(text, `${shown(after)}\n`))
  return drafting.addData(has.post.route, data)
}
