/** Asks the blog which of the steps are done in which a blog is built, with the answers as evidence. */
import { gzipSync } from 'node:zlib'
import { ProcessFragmentStore } from '../../../core/caching/store.ts'
import { featuresOf } from '../../../core/blog/building/features.ts'
import { lowestContrast } from '../../../core/styles/tokens.ts'
import { queriesOf } from '../../../core/shapes/route-data.ts'
import type { BuildingStepId } from '../../../core/shapes/building.ts'
import { loadDocuments } from '../../publish/documents.ts'
import { answer, type AnswerPorts } from '../../reader/answer.ts'
import { refusedForm, internalRequest } from '../../reader/request.ts'
import { Asking, count, linksTo, type AskingPorts, type Question, type StepState } from './asking.ts'
import { FURTHER_QUESTIONS } from './further-questions.ts'

/** The maximum size of the copies with which the time of a page is measured, in bytes. */
const COPIES = 8 * 1024 * 1024

export async function buildingSteps(blog: AskingPorts): Promise<{ isNew: boolean; steps: StepState[] }> {
  const asking = new Asking(blog, featuresOf(blog.site.definition, await loadDocuments(blog.database)))
  const steps: StepState[] = []
  for (const [id, ask] of Object.entries(QUESTIONS) as [BuildingStepId, Question][]) {
    const found = await ask(asking)
    steps.push({ id, isDone: false, evidence: null, address: null, ...found })
  }
  const [content, , list] = steps
  return { isNew: !(content?.isDone && list?.isDone), steps }
}

const LAYOUT = 'layouts/base'

const QUESTIONS: Readonly<Record<BuildingStepId, Question>> = {
  async content(asking) {
    const { published, drafts, unpublished } = await asking.posts()
    const all = published + drafts
    return {
      isDone: all > 0 || unpublished !== undefined,
      evidence: all > 0 ? `${count(published, 'published post')}, ${count(drafts, 'draft')}` : null,
    }
  },

  layout({ blog, has }) {
    const { templates, assets } = blog.site.definition
    const isDone = /href="#\w/.test(templates.text(LAYOUT) ?? '')
    const css = [...assets].flatMap(([name, text]) => (name.endsWith('.css') ? [text] : [])).join('\n')
    const lowest = lowestContrast(css)
    const size = `${(gzipSync(css).length / 1_024).toFixed(1)} kB of CSS`
    const evidence = lowest === undefined ? size : `${size}, contrast at least ${lowest.toFixed(1)}`
    return Promise.resolve({
      isDone,
      evidence: isDone ? evidence : null,
      address: isDone ? (has.home?.path ?? null) : null,
    })
  },

  async list(asking) {
    const { list } = asking.has
    if (!list) return {}
    const { path } = list.route
    const [{ status, rowsOf }, { published }] = await Promise.all([asking.get(path), asking.posts()])
    return {
      isDone: status === 200,
      evidence: `${path} answers ${status} with ${rowsOf(list.query)} of ${count(published, 'post')}`,
      address: path,
    }
  },

  async post(asking) {
    const { post, list } = asking.has
    if (!post) return {}
    const unknown = post.route.path.replace(`:${post.parameter}`, 'no-such-post')
    const [path, missing] = await Promise.all([asking.example(post.route), asking.get(unknown)])
    if (path === undefined)
      return { isDone: missing.status === 404, evidence: `An unknown slug answers ${missing.status}` }
    const [page, listed] = await Promise.all([
      asking.get(path),
      list ? asking.get(list.route.path) : undefined,
    ])
    const isLinked = listed === undefined || linksTo(listed.body, post.route)
    return {
      isDone: page.status === 200 && missing.status === 404 && isLinked,
      evidence: `${path} answers ${page.status}, an unknown slug ${missing.status}${isLinked ? '' : '; the list does not link to its posts'}`,
      address: path,
    }
  },

  async published(asking) {
    const { blog, has } = asking
    const { routes, queries } = blog.site.definition
    const open = [...new Set(routes.flatMap(({ route }) => queriesOf(route)))].filter((name) => {
      const meaning = queries.get(name)
      return meaning?.from === 'posts' && !meaning.named.includes('published')
    })
    if (!has.list && !has.post) return {}
    if (open.length > 0) return { evidence: `${open.join(', ')} also returns drafts` }
    const { unpublished } = await asking.posts()
    if (!unpublished) return { isDone: true, evidence: 'There is no draft to try' }
    const tried: string[] = []
    let isDone = true
    if (has.post) {
      const { status } = await asking.get(
        has.post.route.path.replace(`:${has.post.parameter}`, unpublished.slug),
      )
      isDone = status === 404
      tried.push(`the address of a draft answers ${status}`)
    }
    if (has.list) {
      const isListed = (await asking.get(has.list.route.path)).body.includes(unpublished.title)
      isDone &&= !isListed
      tried.push(isListed ? 'the list shows a draft' : 'the list shows no draft')
    }
    return { isDone, evidence: sentence(tried.join(', ')), address: has.list?.route.path ?? null }
  },

  async pages(asking) {
    const { list } = asking.has
    if (!list?.isPaged) return {}
    const take = asking.blog.site.definition.queries.get(list.query)?.take
    const parameter = take?.kind === 'pages' ? take.parameter : 'page'
    const at = (page: string) => `${list.route.path}?${parameter}=${page}`
    const [second, none, last] = await Promise.all(['2', 'abc', '999'].map((page) => asking.get(at(page))))
    const { published } = await asking.posts()
    const hasSecond = take?.kind === 'pages' && published > take.size
    return {
      isDone: (second?.status ?? 500) < 500 && (none?.status ?? 500) < 500 && (last?.status ?? 500) < 500,
      evidence: `Page 2 answers ${second?.status}${hasSecond ? '' : ' (all posts fit on one page)'}, page abc ${none?.status}, page 999 ${last?.status}`,
      address: hasSecond ? at('2') : list.route.path,
    }
  },

  async categories(asking) {
    const { category, list } = asking.has
    if (!category) return {}
    const path = await asking.example(category.route)
    if (path === undefined) return { isDone: true, evidence: 'There are no categories yet' }
    const [page, listed] = await Promise.all([
      asking.get(path),
      list ? asking.get(list.route.path) : undefined,
    ])
    const isLinked = listed === undefined || linksTo(listed.body, category.route)
    return {
      isDone: page.status === 200 && isLinked,
      evidence: `${path} answers ${page.status}${isLinked ? ', and cards link to categories' : '; cards do not link to categories'}`,
      address: path,
    }
  },

  async home(asking) {
    const { home, page, post } = asking.has
    if (!home || !page) return {}
    const { status, body } = await asking.get(home.path)
    const shows = queriesOf(home).some(
      (name) => asking.blog.site.definition.queries.get(name)?.from === 'posts',
    )
    const path = await asking.example(page.route)
    const isLinked = path === undefined || body.includes(`href="${path}"`)
    return {
      isDone: status === 200 && shows && (post === undefined || linksTo(body, post.route)),
      evidence: `${home.path} answers ${status}${shows ? ' with the latest posts' : ''}${path === undefined ? '' : isLinked ? `, and links to ${path}` : `; the menu does not link to ${path}`}`,
      address: home.path,
    }
  },

  async comments(asking) {
    const { comments, post } = asking.has
    if (!comments || !post) return {}
    const { newest } = await asking.posts()
    if (newest === undefined) return { evidence: 'There is no post to comment on' }
    const path = post.route.path.replace(`:${post.parameter}`, newest.slug)
    const page = await asking.get(path)
    const hasForm = /<form[^>]*method="post"/i.test(page.body)
    const to = comments.path.replace(/:\w+/, newest.slug)
    const { status } = await answer(asking.blog.withoutFragments(), refusedForm(to))
    return {
      isDone: hasForm && status < 500,
      evidence: `${path} ${hasForm ? 'has the form' : 'has no form'}; an empty comment is answered with ${status}`,
      address: path,
    }
  },

  async cache(asking) {
    const { list, home } = asking.has
    const { templates } = asking.blog.site.definition
    const names = [...new Set(templates.fragments().map((one) => one.name))]
    const path = list?.route.path ?? home?.path
    if (names.length === 0 || path === undefined) return {}
    const copies = new ProcessFragmentStore(COPIES)
    const [without, kept] = [
      await medianTime(asking.blog.withoutFragments(), path),
      await medianTime(asking.blog.withCopies(copies), path),
    ]
    return {
      isDone: true,
      evidence: `${path} takes ${kept.toFixed(1)} ms with copies, ${without.toFixed(1)} ms without`,
      address: path,
    }
  },

  async machines(asking) {
    const { feed, sitemap, robots, post, preview } = asking.has
    if (!feed || !sitemap || !robots || (post && !preview)) return {}
    const [posts, pages, rules] = await Promise.all(
      [feed, sitemap, robots].map(({ path }) => asking.get(path)),
    )
    const number = (text: string | undefined, part: RegExp) => (text?.match(part) ?? []).length
    return {
      isDone: [posts, pages, rules].every((one) => one?.status === 200),
      evidence: `${feed.path} answers ${posts?.status} with ${count(number(posts?.body, /<(entry|item)>|"content_text"/g), 'post')}, ${sitemap.path} ${pages?.status} with ${count(number(pages?.body, /<loc>/g), 'address', 'addresses')}, ${robots.path} ${rules?.status}`,
      address: feed.path,
    }
  },

  ...FURTHER_QUESTIONS,
}

const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)

const TIMES = 5

/** Returns the median time of a few requests, in milliseconds. The first fills the copies and is not counted. */
async function medianTime(blog: AnswerPorts, path: string): Promise<number> {
  const times: number[] = []
  for (let time = 0; time <= TIMES; time++) {
    const began = performance.now()
    await answer(blog, internalRequest(path))
    if (time > 0) times.push(performance.now() - began)
  }
  return times.sort((a, b) => a - b)[TIMES >> 1] ?? 0
}
