/** Drafts comments on a post: the form, the list, the action and the script, all of which may be changed afterwards. */
import { success, refused, type Outcome } from '../shapes/outcome.ts'
import type { DocumentChange } from '../shapes/changes.ts'
import { queryPath, templatePath } from '../shapes/documents.ts'
import type { Route } from '../shapes/schemas.ts'
import type { CompiledRoute } from '../routing/addresses/compiled-route.ts'
import { replaceRoute } from './edit.ts'
import { belowArticle } from './place-in-page.ts'
import { fetchAlso } from './edit-query.ts'
import { STARTING_POINT_PROBLEMS } from './problems.ts'

const PARTIALS = ['partials/comments', 'partials/comment', 'partials/comment-form'].map(templatePath)
const SCRIPT = 'assets/comments.js'
const QUERY = 'comments-of-post'

/** The documents that a draft starts from, by path: those of the demo blog. */
export const COMMENT_PARTS: readonly string[] = [...PARTIALS, SCRIPT, queryPath(QUERY)]

export interface CommentsWish {
  /** The name of the action. */
  name: string
  /** The path of the route whose pages show one post. */
  path: string
}

interface Surroundings {
  documents: ReadonlyMap<string, string>
  routes: readonly CompiledRoute[]
  parts: ReadonlyMap<string, string>
}

/** A route that shows one post, and how its data names it. */
export interface PostRoute {
  route: Route
  /** The name of the post in templates, and its query. */
  data: string
  query: string
  /** The parameter with the slug. */
  parameter: string
}

/** Returns the route, the changes, and what routes.yaml becomes without the new route. */
export function commentsStart(
  { name, path }: CommentsWish,
  { documents, routes, parts }: Surroundings,
): Outcome<{ route: Route; changes: DocumentChange[]; routesText: string }> {
  const of = routes.map(({ route }) => postRoute(route, documents)).find((one) => one?.route.path === path)
  const template = templatePath(of?.route.template ?? '')
  const page = documents.get(template)
  if (!of || page === undefined)
    return refused({ file: 'routes.yaml', ...STARTING_POINT_PROBLEMS['starting-point-no-post'](path) })
  const adapted = (text: string) =>
    text
      .replaceAll("'add-comment' | url: slug: post.slug", `'${name}' | url: ${of.parameter}: post.slug`)
      .replaceAll("'post' | url: slug: post.slug", `'${of.route.name}' | url: ${of.parameter}: post.slug`)
      .replaceAll('":slug"', `":${of.parameter}"`)
      // Without a stylesheet that moves it away.
      .replace('<p class="leave">', '<p class="leave" hidden>')
  const changes: DocumentChange[] = []
  for (const document of COMMENT_PARTS) {
    const text = adapted(parts.get(document) ?? '')
    const known = documents.get(document)
    if (known === text) continue
    if (known !== undefined)
      return refused({
        file: document,
        ...STARTING_POINT_PROBLEMS['starting-point-comments-taken'](document),
      })
    changes.push({ document, text })
  }
  changes.push({ document: template, text: withComments(page, of.data) })
  const query = documents.get(queryPath(of.query)) ?? ''
  // The heading counts the comments of the post.
  const counted = fetchAlso(query, 'commentCount')
  if (counted !== query) changes.push({ document: queryPath(of.query), text: counted })
  const routesText = replaceRoute(documents.get('routes.yaml') ?? '', of.route.name, (declared) => ({
    ...declared,
    data: { ...declared.data, comments: QUERY },
  }))
  if (routesText === undefined)
    return refused({
      file: 'routes.yaml',
      ...STARTING_POINT_PROBLEMS['starting-point-routes-not-editable'](),
    })
  const route: Route = {
    name,
    path: `${of.route.path.replace(/\/$/, '')}/comments`,
    ...(of.route.params ? { params: of.route.params } : {}),
    data: { post: of.query },
    action: 'add-comment',
    then: of.route.name,
  }
  return success({ route, changes, routesText })
}

export function postRoute(route: Route, documents: ReadonlyMap<string, string>): PostRoute | undefined {
  const names = [...route.path.matchAll(/:(\w+)/g)].map(([, name = '']) => name)
  const [parameter] = names
  if (route.template === undefined || names.length !== 1 || parameter === undefined) return undefined
  for (const [data, query] of Object.entries(route.data ?? {})) {
    const text = typeof query === 'string' ? documents.get(queryPath(query)) : undefined
    if (typeof query !== 'string' || text === undefined) continue
    const bySlug = new RegExp(`field: slug\\b.*":${parameter}"`)
    if (/^from: posts\b/m.test(text) && /^take: one\b/m.test(text) && bySlug.test(text))
      return { route, data, query, parameter }
  }
  return undefined
}

/** Shows the comments below the article, or at the end of what the page shows. */
function withComments(page: string, data: string): string {
  return belowArticle(
    page,
    `{% render 'partials/comments', post: ${data}, comments: comments, form: form %}\n<script src="{{ 'comments.js' | asset }}" defer></script>\n`,
  )
}

/** Returns the paths of routes to which comments can be added, as patterns. */
export const commentable = (
  routes: readonly CompiledRoute[],
  documents: ReadonlyMap<string, string>,
): string[] =>
  routes.flatMap(({ route }) => {
    const hasForm = routes.some((one) => one.route.then === route.name)
    return !hasForm && postRoute(route, documents) ? [route.path] : []
  })
