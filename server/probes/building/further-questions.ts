/** Asks the blog which of the further steps are done. */
import type { FurtherStep } from '../../../core/shapes/building.ts'
import type { DataEntry, Route } from '../../../core/shapes/schemas.ts'
import { count, linksTo, type Asking, type Question } from './asking.ts'

export const FURTHER_QUESTIONS: Readonly<Record<FurtherStep, Question>> = {
  async authors(asking) {
    const { author } = asking.has
    return author ? await termsOf(asking, author.route, 'author') : {}
  },

  async tags(asking) {
    const { tag } = asking.has
    return tag ? await termsOf(asking, tag.route, 'tag') : {}
  },

  async archive(asking) {
    const { archive, month } = asking.has
    if (!archive || !month) return {}
    const [page, path] = await Promise.all([asking.get(archive.path), asking.example(month.route)])
    const posts = path === undefined ? undefined : await asking.get(path)
    return {
      isDone: page.status === 200 && (posts?.status ?? 200) === 200,
      evidence: `${archive.path} answers ${page.status}${path === undefined ? '' : `, ${path} ${posts?.status}`}`,
      address: archive.path,
    }
  },

  async search(asking) {
    const { search } = asking.has
    if (!search) return {}
    const newest = await asking.newest()
    const word = longestWord(newest?.title ?? 'a')
    const at = (text: string) => `${search.route.path}?${search.parameter}=${encodeURIComponent(text)}`
    const [found, nothing] = await Promise.all([asking.get(at(word)), asking.get(at('qzqzqz'))])
    const rows = found.rowsOf(queryOfData(search.route, search.data))
    return {
      isDone: found.status === 200 && nothing.status === 200 && (rows > 0 || newest === undefined),
      evidence: `A search for “${word}” answers ${found.status} with ${count(rows, 'post')}, a search without matches ${nothing.status}`,
      address: at(word),
    }
  },

  async related(asking) {
    const { related } = asking.has
    const newest = related === undefined ? undefined : await asking.newest()
    if (related === undefined || !newest) return {}
    return {
      isDone: newest.status === 200,
      evidence: `${newest.path} shows ${count(newest.rowsOf(queryOfData(newest.route, related)), 'related post')}`,
      address: newest.path,
    }
  },

  async neighbours(asking) {
    const { neighbours } = asking.has
    const newest = neighbours && (await asking.newest())
    if (!neighbours || !newest) return {}
    const [older, newer] = [neighbours.older, neighbours.newer].map((name) =>
      newest.rowsOf(queryOfData(newest.route, name)),
    )
    return {
      isDone: newest.status === 200 && newer === 0,
      evidence: `${newest.path}, the newest post, ${older ? 'links to an older one' : 'has no older one'}${newer ? ', and also to a newer one' : ', and to no newer one'}`,
      address: newest.path,
    }
  },

  async popular(asking) {
    const { popular, home } = asking.has
    if (popular === undefined || !home) return {}
    const { status, rowsOf } = await asking.get(home.path)
    return {
      isDone: status === 200,
      evidence: `${home.path} shows ${count(rowsOf(queryOfData(home, popular)), 'post')} by their comments`,
      address: home.path,
    }
  },

  async aside(asking) {
    const { aside, hasOwnAside, home, list } = asking.has
    const path = (list?.route ?? home)?.path
    if (path === undefined || (!aside && !hasOwnAside)) return {}
    const { status, rowsOf } = await asking.get(path)
    if (!aside) return { isDone: status === 200, evidence: `Pages show “partials/aside”`, address: path }
    const { data = {} } = asking.blog.site.definition.settings
    const shown = (name: string | undefined, one: string, many?: string) =>
      name === undefined ? [] : [count(rowsOf(queryOf(data[name])), one, many)]
    const parts = [
      ...shown(aside.categories, 'category', 'categories'),
      ...shown(aside.months, 'month'),
      ...shown(aside.comments, 'comment'),
    ]
    return {
      isDone: status === 200,
      evidence: `${path} answers ${status}, and its aside shows ${parts.join(', ')}`,
      address: path,
    }
  },

  async numbered(asking) {
    const { numbered } = asking.has
    if (!numbered) return {}
    const { newest, unpublished } = await asking.posts()
    if (!newest) return { isDone: true, evidence: 'There are no published posts yet' }
    const pathOf = (id: number) => numbered.route.path.replace(`:${numbered.parameter}`, String(id))
    const path = pathOf(newest.id)
    const { status, to } = await asking.get(path)
    const page = to === null ? undefined : await asking.get(to)
    const hidden = unpublished && (await asking.get(pathOf(unpublished.id))).status
    return {
      isDone: page?.status === 200 && hidden !== 200 && hidden !== status,
      evidence: `${path} answers ${status}${to === null ? '' : ` and leads to ${to}`}${hidden === undefined ? '' : `; the number of an unpublished post answers ${hidden}`}`,
      address: path,
    }
  },
}

/** Returns the longest word: short ones may be so common that searches ignore them. */
const longestWord = (title: string): string =>
  (title.match(/[\p{L}\p{N}]+/gu) ?? []).toSorted((a, b) => b.length - a.length)[0] ?? title

/** Asks for a page of a term, and whether the page of a post links to it. */
async function termsOf(asking: Asking, route: Route, term: 'author' | 'tag') {
  const path = await asking.example(route)
  if (path === undefined) return { isDone: true, evidence: `There are no ${term}s yet` }
  const [page, post] = await Promise.all([asking.get(path), asking.newest()])
  return {
    isDone: page.status === 200,
    // The post may have none.
    evidence: `${path} answers ${page.status}${post ? `, and ${post.path} ${linksTo(post.body, route) ? 'links' : 'does not link'} to ${term === 'author' ? 'its author' : 'a tag'}` : ''}`,
    address: path,
  }
}

/** The query of data of a route. */
const queryOfData = ({ data = {} }: Route, name: string): string => queryOf(data[name])

const queryOf = (entry: DataEntry | undefined): string =>
  typeof entry === 'object' ? entry.query : (entry ?? '')
