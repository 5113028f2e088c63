/**
 * Finds out how the blog treats comments, by adding some of every state, requesting pages as a stranger, and sending the
 * form as a browser does. All of it is one transaction that is rolled back.
 */
import { randomUUID } from 'node:crypto'
import type { EntityManager } from 'typeorm'
import type {
  CommentedPage,
  CommentProbe,
  PageForm,
  RejectedForm,
  ReplyProbe,
  SentForm,
} from '../../core/checks/comment-facts.ts'
import type { KnownAddress } from '../../core/checks/facts.ts'
import { HONEYPOT } from '../../core/comments/rules.ts'
import { sampleOf, type SampleSize } from '../../core/checks/sample.ts'
import { groupBy } from '../../core/checks/group-by.ts'
import { COMMENT_STATES, type CommentState } from '../../core/shapes/content-kinds.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import { readAddress } from '../../core/routing/addresses/address.ts'
import { matchRoute } from '../../core/routing/addresses/match.ts'
import type { ClockPort, PoolPort } from '../publish/ports.ts'
import type { Site } from '../publish/site.ts'
import { formPlace } from '../reader/addresses/form-address.ts'
import { buildAddress } from '../reader/addresses/build-address.ts'
import { answer, type AnswerPorts } from '../reader/answer.ts'
import { rulesOf } from '../reader/comments/form.ts'
import { formToken } from '../reader/comments/token.ts'
import { visitorOf } from '../reader/comments/visitor.ts'
import type { RehearsalPort } from '../reader/ports.ts'
import { internalRequest, type BlogRequest, type FormReading } from '../reader/request.ts'
import { cookiesAfter, type BlogResponse } from '../reader/responses.ts'
import { NO_TRACER, type QueryRun } from '../reader/tracer.ts'
import {
  addProbeComment,
  closeComments,
  deleteComments,
  commentWith,
  otherPost,
} from '../store/content/comment-probe.ts'
import {
  hasId,
  INJECTED_ATTRIBUTE,
  INJECTED_ID,
  injectedTag,
  linkWith,
  pageText,
  readForms,
  relOfLink,
} from '../probes/page-forms.ts'

/** The addresses of each route that are requested, besides the post's own. */
const OF_ROUTE: SampleSize = { oldest: 1, newest: 2, between: 1 }
/** More comments from one address within a minute than any reader writes. */
const FLOOD = 60

/** Ends attributes, in each kind of quotes and without; opens an element. */
const HOSTILE = `zq" ${INJECTED_ATTRIBUTE}="1' ${INJECTED_ATTRIBUTE}='1 ${INJECTED_ATTRIBUTE}=1 <u id=${INJECTED_ID}>`
const HOSTILE_HOST = 'https://zq.example/'
const HOSTILE_SITE = `${HOSTILE_HOST}"${INJECTED_ATTRIBUTE}="1'${INJECTED_ATTRIBUTE}='1`

export interface ProbePorts {
  blog: PoolPort & ClockPort & AnswerPorts & RehearsalPort
  manager: EntityManager
  site: Site
  known: readonly KnownAddress[]
  signal: AbortSignal
}

/** Probes the comments of each action that a post's form can be sent to. */
export async function probeComments(ports: ProbePorts): Promise<CommentProbe[]> {
  const { site } = ports
  const found: CommentProbe[] = []
  for (const compiled of site.definition.routes)
    if (compiled.route.action === 'add-comment') {
      const probe = await probeAction(ports, compiled)
      if (probe) found.push(probe)
    }
  return found
}

interface Place {
  action: string
  then: string
  actionPath: string
  page: string
  post: number
}

async function probeAction(ports: ProbePorts, compiled: CompiledRoute): Promise<CommentProbe | undefined> {
  const { blog, manager, site } = ports
  const form = await formPlace(blog, site, compiled)
  const then = compiled.route.then
  if (form?.post === undefined || then === undefined) return undefined
  // Comments are kept elsewhere, and no form is sent here.
  if (rulesOf(site, then).outside) return undefined
  const page = pageOf(site, form.path, compiled, then)
  if (page === undefined) return undefined
  // A page that another route takes is the finding of another rule.
  if ((await answer(blog, internalRequest(page, { sparing: true }))).route !== then) return undefined
  const place = { action: compiled.route.name, then, actionPath: form.path, page, post: form.post }
  const inside = <T>(run: (probe: Probe) => Promise<T>) =>
    blog.store.rehearseWrites(
      () => [],
      ({ pool, store }) => run(new Probe(ports, blog.rehearsing({ pool, store }), place)),
      manager,
    )
  const shown = await inside((probe) => probe.look())
  const sent = await inside((probe) => probe.send(shown.formPage))
  return { ...place, ...shown, ...sent, rate: await inside((probe) => probe.flood()) }
}

/** Returns the path of the page that shows what was sent to an address. */
function pageOf(site: Site, actionPath: string, action: CompiledRoute, then: string): string | undefined {
  const { table, policy } = site.definition
  const address = readAddress(actionPath, policy)
  const match = address.ok ? matchRoute(table, 'POST', address.path) : undefined
  if (match?.outcome !== 'matched' || match.route !== action) return undefined
  const values = Object.fromEntries(match.parameters.map(({ name, value }) => [name, value]))
  const built = buildAddress(site, then, values)
  return built.ok ? built.path : undefined
}

type Looked = Pick<
  CommentProbe,
  | 'form'
  | 'formPage'
  | 'sentTo'
  | 'pages'
  | 'siteRel'
  | 'isNamed'
  | 'reply'
  | 'hasFormWhenClosed'
  | 'hasFormWithoutComments'
  | 'limits'
  | 'optional'
>

/** One rehearsal. */
class Probe {
  readonly #ports: ProbePorts
  readonly #blog: AnswerPorts
  readonly #place: Place
  readonly #at: Date

  constructor(ports: ProbePorts, blog: AnswerPorts, place: Place) {
    this.#ports = ports
    this.#blog = blog
    this.#place = place
    this.#at = ports.blog.clock()
  }

  /** Answers a request. One that fails leaves the transaction usable. */
  async #answer(request: BlogRequest, runs: QueryRun[] = []): Promise<BlogResponse> {
    this.#ports.signal.throwIfAborted()
    const { pool } = this.#blog
    await pool.query('SAVEPOINT request')
    const response = await answer(this.#blog, request, {
      ...NO_TRACER,
      queryRan: (run) => void runs.push(run),
    })
    await pool.query(response.status >= 500 ? 'ROLLBACK TO SAVEPOINT request' : 'RELEASE SAVEPOINT request')
    return response
  }

  async #add(post: number, state: CommentState, name: string, text: string, site = ''): Promise<number> {
    return await addProbeComment(this.#blog.pool, { post, state, name, text, site, at: this.#at })
  }

  /** Adds comments of every state, and requests pages as somebody who wrote none of them. */
  async look(): Promise<Looked> {
    const { post, page } = this.#place
    const marks = new Map(COMMENT_STATES.map((state) => [state, `zq${state}${randomUUID().slice(0, 8)}`]))
    const ids = new Map<CommentState, number>()
    const names = new Map(COMMENT_STATES.map((state) => [state, `zn${state}${randomUUID().slice(0, 8)}`]))
    for (const [state, mark] of marks)
      ids.set(state, await this.#add(post, state, names.get(state) ?? '', mark))
    await this.#add(post, 'shown', HOSTILE, HOSTILE, HOSTILE_SITE)
    const other = await otherPost(this.#blog.pool, post)
    const foreign = other === undefined ? 0 : await this.#add(other, 'shown', 'Zq', 'zq')
    const hidden = new Set([...ids].flatMap(([state, id]) => (state === 'shown' ? [] : [id])))
    const pages: CommentedPage[] = []
    const forms: PageForm[] = []
    let form: PageForm | null = null
    let formPage = page
    let siteRel: string | null = null
    let isNamed = true
    let ownPage = { path: page, body: '' }
    let elsewhere: { form: PageForm; formPage: string } | undefined
    const own = `${page}?comment=${ids.get('shown') ?? 0}`
    for (const path of [own, page, ...this.#others()])
      for (const accepts of ['html', 'json'] as const) {
        const runs: QueryRun[] = []
        let asked = path
        let response = await this.#answer(internalRequest(asked, { accepts }), runs)
        const to = response.headers['location']
        if (path === own && to !== undefined) {
          asked = to.replace(/#.*$/s, '')
          response = await this.#answer(internalRequest(asked, { accepts }), runs)
        }
        const { body, headers } = response
        if (path === own && accepts === 'html') {
          ownPage = { path: asked, body }
          siteRel = relOfLink(body, HOSTILE_HOST)
          isNamed =
            !body.includes(marks.get('shown') ?? '') || pageText(body).includes(names.get('shown') ?? '')
        }
        const isHtml = headers['content-type']?.startsWith('text/html') === true
        if (accepts === 'json' && isHtml) continue
        const returned = runs.filter((run) => run.query.meaning.from === 'comments')
        const idsOf = ({ result }: QueryRun) => result.rows.map((row) => Number(row['id']))
        pages.push({
          path: asked,
          accepts,
          shows: COMMENT_STATES.filter((state) =>
            [marks, names].some((one) => body.includes(one.get(state) ?? '')),
          ),
          unapprovedBy: namesOf(returned.filter((run) => idsOf(run).some((id) => hidden.has(id)))),
          injected: isHtml ? injectedTag(body) : null,
          hasForeign: isHtml && asked.split('?')[0] === page && hasId(body, `comment-${foreign}`),
          foreignBy: namesOf(
            returned.filter(
              (run) => idsOf(run).includes(foreign) && idsOf(run).includes(ids.get('shown') ?? 0),
            ),
          ),
        })
        if (!isHtml) continue
        const found = readForms(body, asked)
        forms.push(...found)
        const written = commentForm(found)
        if (written && asked.split('?')[0] === page) form ??= written
        if (written && this.#routeOf(written) === this.#place.action)
          elsewhere ??= { form: written, formPage: asked }
      }
    const isOnPage = form !== null
    if (form === null && elsewhere) ({ form, formPage } = elsewhere)
    const { nameLength, textLength, fields } = this.#rules
    return {
      ...{ form, formPage, pages, siteRel, isNamed },
      sentTo: [...new Set(forms.flatMap((one) => this.#routeOf(one) ?? []))],
      limits: { name: nameLength, text: textLength },
      optional: Object.entries(fields).flatMap(([name, use]) => (use === 'required' ? [] : [name])),
      reply: isOnPage ? await this.#reply(ownPage, ids.get('shown') ?? 0) : null,
      // In this order: nothing can be undone before the end of the rehearsal.
      hasFormWithoutComments:
        form === null ||
        !isOnPage ||
        this.#routeOf(form) !== this.#place.action ||
        (await this.#hasFormAfter(deleteComments)),
      hasFormWhenClosed: isOnPage && (await this.#hasFormAfter(closeComments)),
    }
  }

  get #rules() {
    return rulesOf(this.#ports.site, this.#place.then)
  }

  /** Follows the link with which a reader replies to a comment. */
  async #reply({ path, body }: { path: string; body: string }, comment: number): Promise<ReplyProbe | null> {
    if (this.#rules.depth === 0) return null
    const id = String(comment)
    // A template may also have a form with which readers choose the comment.
    if (readForms(body, path).some(({ fields }) => fields.some((one) => one.name === 'reply'))) return null
    const link = linkWith(body, path, ['reply', id])
    if (link === null) return { page: path, link, hasParent: false }
    const { body: replying } = await this.#answer(internalRequest(link))
    const form = commentForm(readForms(replying, link))
    const hasParent = form?.fields.some(({ name, value }) => name === 'parent' && value === id) === true
    return { page: path, link, hasParent }
  }

  /** Closes the comments of the post, and requests its page. */
  async #hasFormAfter(change: typeof closeComments): Promise<boolean> {
    const { page, post, action } = this.#place
    await change(this.#blog.pool, post)
    const { body } = await this.#answer(internalRequest(page))
    const form = commentForm(readForms(body, page))
    return form !== null && this.#routeOf(form) === action
  }

  #others(): string[] {
    const groups = groupBy(this.#ports.known, (one) => one.route).values()
    return [...groups].flatMap((own) => sampleOf(own, OF_ROUTE)).map((one) => one.path)
  }

  /** Returns the route that answers a form. */
  #routeOf({ action, method }: PageForm): string | undefined {
    const { table, policy } = this.#ports.site.definition
    const address = action === null ? undefined : readAddress(action, policy)
    if (!address?.ok) return undefined
    const match = matchRoute(table, method.toUpperCase(), address.path)
    return match.outcome === 'matched' ? match.route.route.name : undefined
  }

  /** Sends the form on a page as a browser does: complete, and with mistakes. */
  async send(page: string): Promise<Pick<CommentProbe, 'sent' | 'rejected'>> {
    const shown = await this.#answer(internalRequest(page))
    const { body } = shown
    const cookies = cookiesAfter(shown)
    const form = commentForm(readForms(body, page))
    if (!form) return { sent: null, rejected: [] }
    const rejected: RejectedForm[] = []
    const { say } = this.#ports.site.definition
    const mistakes = [
      ['without a text', { text: '' }, say('comment-text-missing')],
      ['with a token of another reader', { token: 'zq' }, say('comment-form-unknown')],
    ] as const
    for (const [mistake, instead, sentence] of mistakes) {
      const typed = typedValues()
      const response = await this.#answer(submission(form, { ...typed, ...instead }, cookies))
      const kept = 'text' in instead ? typed.name : typed.text
      const again = commentForm(readForms(response.body, page))
      rejected.push({
        mistake,
        status: response.status,
        saysWhy: pageText(response.body).includes(sentence),
        keepsTyped: again?.fields.some((one) => one.value.trim() === kept) === true,
      })
    }
    return { sent: await this.#sent(form, cookies), rejected }
  }

  async #sent(form: PageForm, cookies: Readonly<Record<string, string>>): Promise<SentForm> {
    const typed = typedValues()
    const response = await this.#answer(submission(form, typed, cookies))
    const stored = await commentWith(this.#blog.pool, typed.text)
    const location = response.headers['location'] ?? null
    const next = response.status === 303 && location !== null ? location.replace(/#.*$/s, '') : null
    const shown = next === null ? '' : (await this.#answer(internalRequest(next, { cookies }))).body
    // A field that the form does not have is not lost.
    const asked = new Set(form.fields.map(({ type, name }) => (name === HONEYPOT ? 'honeypot' : type)))
    const lost = (['name', 'email', 'site'] as const).filter(
      (field) => asked.has(TYPE_OF[field]) && stored !== undefined && stored[field] !== typed[field],
    )
    return {
      status: response.status,
      route: response.route,
      isStored: stored !== undefined,
      lost,
      isShown: stored !== undefined && pageText(shown).includes(typed.text),
      next,
    }
  }

  /** Adds comments from one address until one is refused. */
  async flood(): Promise<CommentProbe['rate']> {
    const request = internalRequest(this.#place.actionPath, { method: 'POST' })
    const client = '192.0.2.77'
    const { writer } = visitorOf(this.#blog, request)
    for (let tried = 0; tried < FLOOD; tried++) {
      const token = formToken(
        this.#blog,
        randomUUID(),
        { writer, client },
        new Date(this.#at.getTime() - 60_000),
      )
      const fields = { ...typedValues(), token }
      const form = () => Promise.resolve<FormReading>({ ok: true, fields })
      const { status } = await this.#answer({ ...request, origin: 'own', client, form })
      if (status !== 303) return { accepted: tried, tried: tried + 1 }
    }
    return { accepted: FLOOD, tried: FLOOD }
  }
}

const namesOf = (runs: readonly QueryRun[]): string[] => [...new Set(runs.map((run) => run.query.name))]

/** Returns the form in which a comment is written. */
const commentForm = (forms: readonly PageForm[]): PageForm | null =>
  forms.find((one) => one.fields.some(({ type }) => type === 'textarea')) ??
  forms.find((one) => one.unnamed > 0 && one.fields.some(({ name }) => name === 'token')) ??
  null

/** The type of the input in which each field is typed. */
const TYPE_OF = { name: 'text', email: 'email', site: 'url' } as const

interface Typed {
  name: string
  email: string
  site: string
  text: string
  token?: string
}

function typedValues(): Typed {
  const mark = `zq${randomUUID().slice(0, 8)}`
  return {
    name: `Zora ${mark}`,
    email: `${mark}@zq.example`,
    site: `https://${mark}.example/`,
    text: `Probe ${mark}`,
  }
}

/** Returns the request with which a browser sends a form, in whose fields a reader has typed. */
function submission(
  { method, action, encoding, fields }: PageForm,
  typed: Typed,
  cookies: Readonly<Record<string, string>>,
): BlogRequest {
  const values = new URLSearchParams()
  let isPressed = false
  for (const { name, type, value } of fields) {
    if (type === 'checkbox' || type === 'radio') continue
    if (type === 'button' || type === 'submit') {
      // The first button is the one that Enter presses.
      if (!isPressed) values.append(name, value)
      isPressed = true
    } else if (type === 'hidden') values.append(name, name === 'token' ? (typed.token ?? value) : value)
    else if (type === 'textarea') values.append(name, typed.text)
    else if (type === 'email') values.append(name, typed.email)
    else if (type === 'url') values.append(name, typed.site)
    else values.append(name, name === HONEYPOT ? '' : typed.name)
  }
  const path = action ?? '/'
  if (method !== 'post')
    return internalRequest(`${path.split('?')[0] ?? ''}?${values.toString()}`, { cookies })
  const form = (): Promise<FormReading> =>
    Promise.resolve(
      encoding === 'application/x-www-form-urlencoded'
        ? { ok: true, fields: Object.fromEntries(values) }
        : { ok: false, status: 415, reason: 'form-type-text' },
    )
  return { ...internalRequest(path, { method: 'POST', cookies }), origin: 'own', form }
}
