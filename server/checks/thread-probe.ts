/** Finds out which thread of an outside service pages of posts name: at other forms of their address, and after a new slug. */
import { LessThanOrEqual, type EntityManager } from 'typeorm'
import type { ThreadProbe } from '../../core/checks/comment-facts.ts'
import { sampleOf, type SampleSize } from '../../core/checks/sample.ts'
import type { CommentServicePort, PoolPort } from '../publish/ports.ts'
import type { Site } from '../publish/site.ts'
import { embeddedThread } from '../probes/page-forms.ts'
import { addressFor } from '../reader/addresses/slug-address.ts'
import { answer, type AnswerPorts } from '../reader/answer.ts'
import { rulesOf, serviceOrigin } from '../reader/comments/form.ts'
import type { RehearsalPort } from '../reader/ports.ts'
import { internalRequest } from '../reader/request.ts'
import { PostEntity } from '../store/entities/content.ts'

/** The published posts whose pages are requested. */
const POSTS: SampleSize = { oldest: 4, newest: 8, between: 8 }
/** What letters and other sites add to addresses. */
const ADDED = 'utm_source=letter'

export interface ThreadPorts {
  blog: PoolPort & AnswerPorts & RehearsalPort & CommentServicePort
  manager: EntityManager
  site: Site
  signal: AbortSignal
}

export async function probeThreads({ blog, manager, site, signal }: ThreadPorts): Promise<ThreadProbe[]> {
  const published = await manager.getRepository(PostEntity).find({
    select: { slug: true, title: true },
    where: { publishedAt: LessThanOrEqual(blog.clock()) },
    order: { publishedAt: 'ASC', id: 'ASC' },
  })
  const threadAt = async (ports: AnswerPorts, origin: string, target: string) => {
    const { status, body } = await answer(ports, internalRequest(target))
    return status === 200 ? embeddedThread(body, origin) : null
  }
  const found: ThreadProbe[] = []
  let isRenamed = false
  for (const { slug, title } of sampleOf(published, POSTS).reverse()) {
    signal.throwIfAborted()
    const address = addressFor({ site }, 'post', slug)
    const origin = address && serviceOrigin(blog, rulesOf(site, address.route.route.name))
    if (!address || origin === undefined) continue
    const { path } = address
    const thread = await threadAt(blog, origin, path)
    if (thread === null) continue
    const other = `${path}?${ADDED}`
    const probe: ThreadProbe = {
      route: address.route.route.name,
      path,
      title,
      thread,
      other: { path: other, thread: await threadAt(blog, origin, other) },
      renamed: null,
    }
    // One post tells for all: the address is built in the same way.
    if (!isRenamed) {
      isRenamed = true
      const next = `${slug.slice(0, 80).replace(/-$/, '')}-renamed`
      const renamed = addressFor({ site }, 'post', next)
      if (renamed)
        await blog.store.rehearseWrites(
          () => [],
          async ({ pool, store }) => {
            await store.manager.update(PostEntity, { slug }, { slug: next })
            const changed = blog.rehearsing({ pool, store })
            probe.renamed = { path: renamed.path, thread: await threadAt(changed, origin, renamed.path) }
          },
          manager,
        )
    }
    found.push(probe)
  }
  return found
}
