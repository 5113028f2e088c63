/** Finds what a blog has, by the meaning of its routes and queries, whatever their names are. */
import type { CompiledRoute } from '../../routing/addresses/compiled-route.ts'
import { redirectNeedsData } from '../../routing/addresses/redirect.ts'
import type { QueryMeaning } from '../../queries/meaning.ts'
import type { DataEntry, Route, SourceName } from '../../shapes/schemas.ts'
import type { Definition } from '../definition.ts'
import { templatePath } from '../../shapes/documents.ts'
import { postRoute, type PostRoute } from '../comments-start.ts'

/** A route that lists posts. */
export interface ListRoute {
  route: Route
  /** The name of the posts in templates, and their query. */
  data: string
  query: string
  isPaged: boolean
}

/** A route whose only parameter chooses what it shows. */
export interface ParameterRoute {
  route: Route
  parameter: string
}

/** The names that shared data of the aside have in templates. */
export interface AsideData {
  categories: string | undefined
  months: string | undefined
  comments: string | undefined
}

export interface Features {
  home: Route | undefined
  list: ListRoute | undefined
  post: PostRoute | undefined
  category: ParameterRoute | undefined
  author: ParameterRoute | undefined
  tag: ParameterRoute | undefined
  /** The posts of a month, with the parameters of the year and the month. */
  month: { route: Route; year: string; month: string } | undefined
  /** The list of the months in which posts were published. */
  archive: Route | undefined
  search: { route: Route; parameter: string; data: string } | undefined
  /** The name of the data of a post’s page with similar posts. */
  related: string | undefined
  /** The names of the data of a post’s page with the posts before and after it. */
  neighbours: { older: string; newer: string } | undefined
  /** Where the posts with the most comments are shown: data of the home page. */
  popular: string | undefined
  /** The shared data of the aside that the layout shows. */
  aside: AsideData | undefined
  /** Whether the author has written an aside, which some pages show. */
  hasOwnAside: boolean
  page: ParameterRoute | undefined
  /** The route that adds a comment. */
  comments: Route | undefined
  /** A feed of the whole blog. */
  feed: Route | undefined
  sitemap: Route | undefined
  robots: Route | undefined
  /** The redirect to a post from an address with its number. */
  numbered: ParameterRoute | undefined
  /** The route that draws an image for a post. */
  preview: Route | undefined
}

type Parts = Pick<Definition, 'routes' | 'queries' | 'settings'>

export function featuresOf(
  { routes, queries, settings }: Parts,
  documents: ReadonlyMap<string, string>,
): Features {
  const pages = routes.flatMap((one) => (one.route.template === undefined ? [] : [withOwnData(one)]))
  const find = (is: (one: CompiledRoute) => boolean) => pages.find(is)?.route
  const home = find(({ pattern }) => pattern.text === '/')
  const post = pages.map(({ route }) => postRoute(route, documents)).find((one) => one !== undefined)
  return {
    home,
    post,
    list: listRoute(pages, queries),
    tag: withParameter(pages, queries, 'posts', 'tags.slug'),
    month: monthRoute(pages, queries),
    archive: find(
      ({ route, pattern }) =>
        pattern.names.length === 0 &&
        hasData(route, queries, ({ countBy }) => countBy.includes('publishedMonth')),
    ),
    search: searchRoute(pages, queries),
    related: post && dataNamed(post.route, queries, (one) => isListOfPosts(one) && one.parameters.length > 0),
    neighbours: post && neighboursOf(post.route, queries),
    popular: home && dataNamed(home, queries, (one) => isListOfPosts(one) && byComments(one)),
    aside: asideOf(settings, queries, documents),
    hasOwnAside: documents.has(templatePath('partials/aside')) && !showsAside(documents),
    category: withParameter(pages, queries, 'posts', 'category.slug'),
    author: withParameter(pages, queries, 'posts', 'author.slug'),
    page: withParameter(pages, queries, 'pages', 'path'),
    comments: routes.find(({ route }) => route.action === 'add-comment')?.route,
    feed: routes.find(({ route, pattern }) => route.feed !== undefined && pattern.names.length === 0)?.route,
    sitemap: routes.find(({ route }) => route.sitemap === true)?.route,
    robots: routes.find(({ route }) => route.robots === true)?.route,
    numbered: numberedRoute(routes, queries),
    preview: routes.find(({ route, pattern }) => route.preview !== undefined && pattern.names.length === 1)
      ?.route,
  }
}

const showsAside = (documents: ReadonlyMap<string, string>): boolean =>
  /render\s+'partials\/aside'/.test(documents.get(templatePath('layouts/base')) ?? '')

function asideOf(
  { data = {} }: Definition['settings'],
  queries: Definition['queries'],
  documents: ReadonlyMap<string, string>,
): AsideData | undefined {
  if (!showsAside(documents)) return undefined
  const named = (is: (meaning: QueryMeaning) => boolean) =>
    Object.keys(data).find((name) => {
      const entry = data[name]
      const meaning = queries.get(typeof entry === 'object' ? entry.query : (entry ?? ''))
      return meaning !== undefined && is(meaning)
    })
  return {
    categories: named(({ from, counts }) => from === 'categories' && counts.includes('postCountWithin')),
    months: named(({ countBy }) => countBy.includes('publishedMonth')),
    comments: named(({ from, take }) => from === 'comments' && take.kind === 'first'),
  }
}

/** Leaves out shared data: an aside that lists the months on every page is no archive. */
const withOwnData = ({ shared, ...one }: CompiledRoute): CompiledRoute => {
  const own = Object.entries(one.route.data ?? {}).filter(([name]) => !shared.has(name))
  return { ...one, shared, route: { ...one.route, data: Object.fromEntries(own) } }
}

const queryOf = (entry: DataEntry) => (typeof entry === 'string' ? entry : entry.query)

function* dataOf(route: Route, queries: Parts['queries']): Generator<[string, string, QueryMeaning]> {
  for (const [name, entry] of Object.entries(route.data ?? {})) {
    const meaning = queries.get(queryOf(entry))
    if (meaning) yield [name, queryOf(entry), meaning]
  }
}

/** Returns the route that lists the posts: one with pages rather than one with the first few, and not the home page. */
function listRoute(pages: readonly CompiledRoute[], queries: Parts['queries']): ListRoute | undefined {
  const found: ListRoute[] = []
  for (const { route, pattern } of pages) {
    if (pattern.names.length > 0 || pattern.text === '/' || Object.keys(route.query ?? {}).length > 0)
      continue
    for (const [data, query, { from, take, countBy }] of dataOf(route, queries))
      if (from === 'posts' && take.kind !== 'one' && countBy.length === 0)
        found.push({ route, data, query, isPaged: take.kind === 'pages' })
  }
  return found.find((one) => one.isPaged) ?? found[0]
}

/** Finds the route whose only parameter is compared with a field of a source. */
function withParameter(
  pages: readonly CompiledRoute[],
  queries: Parts['queries'],
  source: SourceName,
  field: string,
): ParameterRoute | undefined {
  for (const { route, pattern } of pages) {
    const [parameter, ...others] = pattern.names
    if (parameter === undefined || others.length > 0) continue
    for (const [, , { from, conditions }] of dataOf(route, queries))
      if (from === source && conditions.some((one) => one.field === field && one.to === `:${parameter}`))
        return { route, parameter }
  }
  return undefined
}

/** Finds the redirect whose only parameter is the id of a post. */
function numberedRoute(
  routes: readonly CompiledRoute[],
  queries: Parts['queries'],
): ParameterRoute | undefined {
  return withParameter(
    routes.filter(({ route }) => redirectNeedsData(route)),
    queries,
    'posts',
    'id',
  )
}

const isListOfPosts = ({ from, take, countBy }: QueryMeaning) =>
  from === 'posts' && take.kind !== 'one' && countBy.length === 0

const byComments = ({ order: [first] }: QueryMeaning) => first?.field === 'commentCount' && first.descending

function dataNamed(
  route: Route,
  queries: Parts['queries'],
  is: (meaning: QueryMeaning) => boolean,
): string | undefined {
  for (const [name, , meaning] of dataOf(route, queries)) if (is(meaning)) return name
  return undefined
}

const hasData = (...all: Parameters<typeof dataNamed>): boolean => dataNamed(...all) !== undefined

function monthRoute(pages: readonly CompiledRoute[], queries: Parts['queries']): Features['month'] {
  for (const { route, pattern } of pages)
    for (const [, , { from, conditions }] of dataOf(route, queries)) {
      const parameterOf = (field: string) =>
        pattern.names.find((name) => conditions.some((one) => one.field === field && one.to === `:${name}`))
      const [year, month] = [parameterOf('publishedYear'), parameterOf('publishedMonth')]
      if (from === 'posts' && year !== undefined && month !== undefined) return { route, year, month }
    }
  return undefined
}

function searchRoute(pages: readonly CompiledRoute[], queries: Parts['queries']): Features['search'] {
  for (const { route } of pages)
    for (const [data, , meaning] of dataOf(route, queries)) {
      const parameter = Object.keys(route.query ?? {}).find((name) =>
        meaning.conditions.some((one) => one.is === 'matches' && one.to === `:${name}`),
      )
      if (parameter !== undefined) return { route, parameter, data }
    }
  return undefined
}

/** Finds the single posts that are compared with the time of the post on its page. */
function neighboursOf(route: Route, queries: Parts['queries']): Features['neighbours'] {
  const beside = (is: 'less' | 'more') =>
    dataNamed(
      route,
      queries,
      ({ from, take, conditions }) =>
        from === 'posts' &&
        take.kind !== 'pages' &&
        conditions.some((one) => one.field === 'publishedAt' && one.is === is),
    )
  const [older, newer] = [beside('less'), beside('more')]
  return older !== undefined && newer !== undefined ? { older, newer } : undefined
}
