/** Finds out which thread of an outside service pages of posts name: at other forms of their address, and after a new slug. */
import { LessThanOrEqual, type EntityManager } from 'typeorm'
import type { ThreadProbe, ThreadProbes } from '../../core/checks/comment-facts.ts'
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
const NEWEST = 12
const OLDEST = 8
/** What letters and other sites add to addresses. */
const ADDED = 'utm_source=letter'

export interface ThreadPorts {
  blog: PoolPort & AnswerPorts & RehearsalPort & CommentServicePort
  manager: EntityManager
  site: Site
  signal: AbortSignal
}

export async function probeThreads({ blog, manager, site, signal }: ThreadPorts): Promise<ThreadProbes> {
  const posts = manager.getRepository(PostEntity)
  const published = (direction: 'ASC' | 'DESC', take: number) =>
    posts.find({
      select: { id: true, slug: true, title: true },
      where: { publishedAt: LessThanOrEqual(blog.clock()) },
      order: { publishedAt: direction, id: direction },
      take,
    })
  const [newest, oldest] = [await published('DESC', NEWEST), await published('ASC', OLDEST)]
  const sample = [...newest, ...oldest.filter((one) => !newest.some(({ id }) => id === one.id))]
  const threadAt = async (ports: AnswerPorts, origin: string, target: string) => {
    const { status, body } = await answer(ports, internalRequest(target))
    return status === 200 ? embeddedThread(body, origin) : null
  }
  const requested: string[] = []
  const found: ThreadProbe[] = []
  let isRenamed = false
  for (const { slug, title } of sample) {
    signal.throwIfAborted()
    const address = addressFor({ site }, 'post', slug)
    const origin = address && serviceOrigin(blog, rulesOf(site, address.route.route.name))
    if (!address || origin === undefined) continue
    const { path } = address
    requested.push(path)
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
  return { requested, threads: found }
}
