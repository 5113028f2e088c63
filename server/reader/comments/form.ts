/** What templates read as `form`: the comment form of a post, for one reader. */
import { commentHtml } from '../../../core/comments/render.ts'
import { commentRules, HONEYPOT, isWithinTime, type RulesInForce } from '../../../core/comments/rules.ts'
import { NO_VALUES, type CommentErrors, type CommentValues } from '../../../core/comments/submission.ts'
import type { SafeHtml } from '../../../core/content/html/safe-html.ts'
import { TEST_SERVICE, threadOf, type OutsideThread } from '../../../core/comments/outside.ts'
import { NOTHING, rowKey, type Dependence } from '../../../core/caching/dependence.ts'
import type { Site } from '../../publish/site.ts'
import type {
  ClockPort,
  CommentServicePort,
  CursorKeyPort,
  OriginsPort,
  PoolPort,
} from '../../publish/ports.ts'
import { formFacts, type FormPost } from '../../store/content/comments.ts'
import { publicOrigin } from './mail-links.ts'
import type { BlogRequest } from '../request.ts'
import { formToken } from './token.ts'
import { visitorOf, writerHash } from './visitor.ts'

/** What a form is shown again with. */
export interface FormState {
  values: CommentValues & { remember?: boolean; replies?: boolean }
  /** `form`: about the form as a whole. */
  errors: CommentErrors & { form?: string }
  parent: number | null
  preview?: SafeHtml
  /** The comment that is changed. */
  editing?: number
}

/** Returns the rules of the form on the pages of a route: an action may change those of the blog. */
export function rulesOf({ definition }: Pick<Site, 'definition'>, pageRoute: string): RulesInForce {
  const action = definition.routes.find(
    ({ route }) => route.action === 'add-comment' && route.then === pageRoute,
  )
  const { comments } = definition.settings
  return action?.route.comments ? commentRules(comments, action.route.comments) : definition.comments
}

export const isOpen = (
  rules: RulesInForce,
  post: Pick<FormPost, 'commentsOpen' | 'publishedAt'>,
  now: Date,
): boolean => post.commentsOpen && isWithinTime(rules, post.publishedAt, now)

/** Returns when the form closes by itself, in milliseconds; Infinity if it never does, or already has. */
function closingTime({ closesAfter }: RulesInForce, post: FormPost | null, now: Date): number {
  if (closesAfter === null || !post?.publishedAt) return Infinity
  const at = post.publishedAt.getTime() + closesAfter
  return at > now.getTime() ? at : Infinity
}

export type FormPorts = PoolPort & ClockPort & CursorKeyPort & OriginsPort & CommentServicePort

export interface FormRequest {
  request: BlogRequest
  site: Site
  /** The route of the page. */
  route: string
  search: URLSearchParams
  /** The post of the page; undefined without one. */
  post: number | undefined
  state: FormState | undefined
  /** Whether it is for all readers: nothing of what this one has written is read. */
  forAll: boolean
}

/** What the form shows of its post. */
const SHOWN_FIELDS: ReadonlySet<string> = new Set(['commentsOpen', 'publishedAt', 'slug', 'title'])

export interface LoadedForm {
  value: { token: string; values: CommentValues }
  dependence: Dependence
  /** Whether the browser is not known yet. */
  isNew: boolean
  writer: string
  /** When the form closes by itself, in milliseconds; Infinity if it does not. */
  until: number
}

/**
 * Loads the form. A page with a token sets a cookie for a browser that is not known yet, which `isNew` says.
 */
export async function loadForm(
  ports: FormPorts,
  { request, site, route, search, post, state, forAll }: FormRequest,
): Promise<LoadedForm> {
  const now = ports.clock()
  const rules = rulesOf(site, route)
  const { writer, isNew, remembered } = visitorOf(ports, request)
  const wanted = state ? state.parent : replyTo(search)
  const facts =
    post === undefined
      ? { post: null, own: [], parent: null, isUnconfirmed: false }
      : await formFacts(ports.pool, {
          post,
          writer: isNew || forAll ? null : writerHash(ports, writer),
          parent: wanted,
          since: new Date(now.getTime() - rules.editableFor),
        })
  const errors = Object.entries(state?.errors ?? {}).map(([field, text]) => ({ field, text }))
  const changeable = (at: Date) => at.getTime() > now.getTime() - rules.editableFor
  const value = {
    token: formToken(ports, request.id, { writer, client: request.client }, now),
    isOpen: facts.post !== null && isOpen(rules, facts.post, now),
    outside: outsideThread(ports, { site, rules, request, post: facts.post }),
    fields: rules.fields,
    rules: {
      show: rules.show,
      order: rules.order,
      depth: rules.depth,
      nameLength: rules.nameLength,
      textLength: rules.textLength,
      editableMinutes: Math.floor(rules.editableFor / 60_000),
      repliesByMail: rules.notify.replies && rules.fields.email !== 'off',
    },
    honeypot: rules.honeypot ? HONEYPOT : null,
    values: state?.values ?? { ...NO_VALUES, ...remembered },
    remember: state?.values.remember ?? (remembered.name ?? '') !== '',
    errors: errors.length === 0 ? null : { ...state?.errors, all: errors },
    replies: state?.values.replies ?? false,
    isUnconfirmed: facts.isUnconfirmed,
    parent: rules.depth > 0 ? facts.parent : null,
    preview: state?.preview ?? null,
    editing: state?.editing === undefined ? null : { id: state.editing },
    waiting: facts.own
      .filter((one) => !one.isShown)
      .map(({ isShown: _, text, ...one }) => ({
        ...one,
        text,
        depth: 0,
        byAuthor: false,
        editedAt: null,
        html: commentHtml(text),
        isChangeable: changeable(one.createdAt),
      })),
    changeable: facts.own.filter((one) => one.isShown).map((one) => one.id),
  }
  const dependence: Dependence =
    post === undefined ? NOTHING : { ...NOTHING, rows: new Map([[rowKey('posts', post), SHOWN_FIELDS]]) }
  return { value, dependence, isNew, writer, until: closingTime(rules, facts.post, now) }
}

/** Returns the origin of the service that keeps comments; undefined without one, or where the built-in one is not running. */
export const serviceOrigin = (
  { commentService }: CommentServicePort,
  { outside }: RulesInForce,
): string | undefined =>
  outside?.service === TEST_SERVICE ? (commentService ?? undefined) : outside?.service

function outsideThread(
  ports: CommentServicePort & OriginsPort,
  {
    site,
    rules,
    request,
    post,
  }: Pick<FormRequest, 'site' | 'request'> & { rules: RulesInForce; post: FormPost | null },
): OutsideThread | null {
  const origin = serviceOrigin(ports, rules)
  if (!rules.outside || origin === undefined || post === null) return null
  const { identifier } = rules.outside
  const address = publicOrigin({ site, origins: ports.origins }) + request.target
  return {
    script: `${origin}/embed.js`,
    site: rules.outside.site,
    thread: threadOf(identifier, { ...post, address }),
    address,
    title: post.title,
  }
}

/** Returns the comment that a reader wants to reply to. */
function replyTo(search: URLSearchParams): number | null {
  const text = search.get('reply') ?? ''
  return /^[1-9][0-9]{0,8}$/.test(text) ? Number(text) : null
}
