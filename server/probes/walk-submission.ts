/** Walks a comment form on the path of readers' forms: in a transaction that is rolled back, or for real. */
import { randomUUID } from 'node:crypto'
import { HONEYPOT } from '../../core/comments/rules.ts'
import { readAddress } from '../../core/routing/addresses/address.ts'
import { matchRoute } from '../../core/routing/addresses/match.ts'
import type { BodyOf } from '../../contract/operations.ts'
import type { SubmissionWalk } from '../../contract/walk.ts'
import { buildAddress } from '../reader/addresses/build-address.ts'
import { answer, type AnswerPorts } from '../reader/answer.ts'
import type { Blog } from '../reader/blog.ts'
import { formToken } from '../reader/comments/token.ts'
import { visitorOf, writerCookie } from '../reader/comments/visitor.ts'
import { internalRequest, type BlogRequest } from '../reader/request.ts'
import { cookiesAfter, type BlogResponse } from '../reader/responses.ts'
import { Walk } from '../reader/walk/walk.ts'
import { hasId } from './page-forms.ts'

type Wanted = BodyOf<'POST /api/walk/submission'>

/** The writer of all submissions that are walked “in the same browser”. */
const WORKBENCH_WRITER = 'workbench-commenter-1'

/** @returns undefined if the page at this address has no form */
export async function walkSubmission(blog: Blog, wanted: Wanted): Promise<SubmissionWalk | undefined> {
  const target = actionOf(blog, wanted.path)
  if (target === undefined) return undefined
  // Before a transaction is open: the first learning takes a while.
  await blog.training.ready()
  const run = (ports: AnswerPorts) => submitted(blog, ports, target, wanted)
  return wanted.keep
    ? await run(blog)
    : await blog.store.rehearseWrites(
        (changes) => blog.affectedCopies(changes),
        (inside) => run(blog.rehearsing(inside)),
      )
}

/** Returns the address to which the form of a page is sent. */
function actionOf({ site }: Blog, page: string): string | undefined {
  const { definition } = site
  const address = readAddress(page.startsWith('/') ? page : `/${page}`, definition.policy)
  if (!address.ok) return undefined
  // Routes before the one with the form may match and pass the request on.
  for (let from = 0; ;) {
    const match = matchRoute(definition.table, 'GET', address.path, from)
    if (match.outcome !== 'matched') return undefined
    const shown = match.route.route.name
    const action = definition.routes.find(
      ({ route }) => route.action === 'add-comment' && route.then === shown,
    )
    if (action) {
      const values = Object.fromEntries(match.parameters.map(({ name, value }) => [name, value]))
      const built = buildAddress(site, action.route.name, values)
      return built.ok ? built.path : undefined
    }
    from = match.index + 1
  }
}

async function submitted(
  blog: Blog,
  ports: AnswerPorts,
  target: string,
  wanted: Wanted,
): Promise<SubmissionWalk> {
  const { fields, seconds = 60, token = 'own', writer = 'new', client, isHoneypotFilled = false } = wanted
  const cookies =
    writer === 'workbench' ? cookiesAfter({ cookies: [writerCookie(blog, WORKBENCH_WRITER, undefined)] }) : {}
  const request: BlogRequest = {
    ...internalRequest(target, { method: 'POST', cookies }),
    origin: 'own',
    client: client === undefined || client.trim() === '' ? null : client.trim(),
  }
  const since = new Date(blog.clock().getTime() - seconds * 1_000)
  const owner = { writer: visitorOf(blog, request).writer, client: request.client }
  const made = formToken(
    blog,
    randomUUID(),
    token === 'foreign' ? { writer: 'somebody else', client: 'elsewhere' } : owner,
    since,
  )
  const sent = {
    ...fields,
    ...(token === 'missing' ? {} : { token: made }),
    ...(isHoneypotFilled ? { [HONEYPOT]: 'https://spam.example/' } : {}),
  }
  const form: BlogRequest['form'] = () => Promise.resolve({ ok: true, fields: sent })
  const { walk, response } = await walked(blog, ports, { ...request, form })
  const { submission } = walk.record
  if (submission) {
    submission.words = blog.training.strongestOf(walk.submissions.words)
    const { comment } = submission.result
    if (comment !== null) submission.row = await storedRow(ports, comment)
  }
  const location = response.headers['location']
  const purged = wanted.keep ? [...(submission?.dropped ?? [])] : []
  if (response.status !== 303 || location === undefined) return { purged, walk: walk.record, next: null }
  const then = location.replace(/#.*$/s, '')
  const own = { ...cookies, ...cookiesAfter(response) }
  const next = await walked(blog, ports, internalRequest(then, { cookies: own }))
  const other = await answer(ports, internalRequest(then))
  const isSeenIn = ({ body }: BlogResponse) => hasId(body, location.replace(/^.*#/s, ''))
  return {
    purged,
    walk: walk.record,
    next: {
      walk: next.walk.record,
      isSeenByWriter: isSeenIn(next.response),
      isSeenByOthers: isSeenIn(other),
    },
  }
}

async function walked(
  { clock, site }: Blog,
  ports: AnswerPorts,
  request: BlogRequest,
): Promise<{ walk: Walk; response: BlogResponse }> {
  const walk = new Walk(request, clock(), site.version)
  return { walk, response: await answer(ports, request, walk) }
}

/** Returns a comment as it is stored, with what triggers have added, but without the keys of persons. */
async function storedRow({ pool }: AnswerPorts, id: number): Promise<Record<string, unknown> | null> {
  const { rows } = await pool.query<{ row: Record<string, unknown> }>(
    "SELECT to_jsonb(comment) - ARRAY['writer', 'client', 'once', 'edits'] AS row FROM comment WHERE id = $1",
    [id],
  )
  return rows[0]?.row ?? null
}
