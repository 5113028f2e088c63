/** Requests of the blog, as a reader sends them, that show which steps are done. */
import type { Features } from '../../../core/blog/building/features.ts'
import type { BuildingStepId } from '../../../core/shapes/building.ts'
import type { Route } from '../../../core/shapes/schemas.ts'
import { addressesOf } from '../../reader/addresses/real-addresses.ts'
import { answer, type AnswerPorts } from '../../reader/answer.ts'
import type { ScratchPort, UncachedPort } from '../../reader/ports.ts'
import { internalRequest } from '../../reader/request.ts'
import { Walk } from '../../reader/walk/walk.ts'
import { PostEntity } from '../../store/entities/content.ts'

export interface StepState {
  id: BuildingStepId
  isDone: boolean
  /** What the blog has answered; null if it was not asked. */
  evidence: string | null
  address: string | null
}

export type AskingPorts = AnswerPorts & UncachedPort & ScratchPort

/** Returns whether a step is done, with the evidence. */
export type Question = (asking: Asking) => Promise<Partial<Omit<StepState, 'id'>>>

export const count = (number: number, one: string, many = `${one}s`) =>
  `${number} ${number === 1 ? one : many}`

/** Rows that decide what is tried: a published post, and an unpublished one. */
interface Posts {
  published: number
  /** Comments on older ones may be closed. */
  newest: { id: number; slug: string; title: string } | undefined
  unpublished: { id: number; slug: string; title: string } | undefined
  drafts: number
}

export class Asking {
  readonly blog: AskingPorts
  readonly has: Features
  #posts: Promise<Posts> | undefined

  constructor(blog: AskingPorts, has: Features) {
    this.blog = blog
    this.has = has
  }

  /** Requests an address as a reader. */
  async get(path: string) {
    const request = internalRequest(path)
    const walk = new Walk(request, this.blog.clock(), this.blog.site.version)
    const { status, body, headers } = await answer(this.blog.withoutFragments(), request, walk)
    const rowsOf = (query: string) => walk.record.queries.runs.find((one) => one.query === query)?.rows ?? 0
    return { status, body, to: headers['location'] ?? null, rowsOf }
  }

  /** Returns an existing address of a route. */
  async example(route: Route): Promise<string | undefined> {
    const { site } = this.blog
    const compiled = site.definition.routes.find((one) => one.route.name === route.name)
    const found = compiled && (await addressesOf(this.blog, site, compiled, { size: 1 }))
    return found?.addresses[0]?.path
  }

  /** Requests the page of the newest post. */
  async newest() {
    const { post } = this.has
    const { newest } = await this.posts()
    if (!post || newest === undefined) return undefined
    const path = post.route.path.replace(`:${post.parameter}`, newest.slug)
    return { path, route: post.route, title: newest.title, ...(await this.get(path)) }
  }

  posts(): Promise<Posts> {
    return (this.#posts ??= this.#countPosts())
  }

  async #countPosts(): Promise<Posts> {
    const now = this.blog.clock()
    const rows = this.blog.database.getRepository(PostEntity).createQueryBuilder('post')
    const isPublished = 'post.publishedAt IS NOT NULL AND post.publishedAt <= :now'
    const [published, drafts, newest, unpublished] = await Promise.all([
      rows.clone().where(isPublished, { now }).getCount(),
      rows.clone().where('post.publishedAt IS NULL').getCount(),
      rows.clone().where(isPublished, { now }).orderBy('post.publishedAt', 'DESC').getOne(),
      rows
        .clone()
        .where(`NOT (${isPublished}) OR post.publishedAt IS NULL`, { now })
        .select(['post.id', 'post.slug', 'post.title'])
        .orderBy('post.id')
        .getOne(),
    ])
    return { published, drafts, newest: newest ?? undefined, unpublished: unpublished ?? undefined }
  }
}

/** Whether a page has a link to any address of a route. */
export const linksTo = (html: string, { path }: Route): boolean =>
  new RegExp(
    `href="${path
      .split(/:\w+/)
      .map((part) => part.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
      .join('[^"/?#]+')}"`,
  ).test(html)
