/** The script that embeds a thread, and the page of a thread. */
import { createHash } from 'node:crypto'
import { html } from 'hono/html'
import type { ThreadComment } from './threads.ts'

const escape = (text: string): string => String(html`${text}`)

/** Replaces the script with a frame that shows the thread, and fits its height to the content. */
export const EMBED = `(() => {
  const script = document.currentScript
  const { origin } = new URL(script.src)
  const { site, thread, address, title } = script.dataset
  const frame = document.createElement('iframe')
  frame.title = 'Comments'
  frame.loading = 'lazy'
  frame.frameBorder = '0'
  frame.width = '100%'
  frame.height = '400'
  frame.src = origin + '/thread?' + new URLSearchParams({ site, thread: thread || address, address, title })
  script.after(frame)
  addEventListener('message', ({ origin: from, source, data }) => {
    if (from === origin && source === frame.contentWindow && data > 0) frame.height = String(Math.min(Number(data), 20000))
  })
})()
`

const SCRIPT =
  'const tell = () => parent.postMessage(document.documentElement.offsetHeight, "*"); new ResizeObserver(tell).observe(document.documentElement)'
const STYLE =
  ':root{color-scheme:light dark}body{margin:0;font:16px/1.5 system-ui,sans-serif}main{display:grid;gap:1rem;padding:2px}' +
  'ol{list-style:none;margin:0;padding:0}li{border-top:1px solid #8885;padding:.6rem 0;overflow-wrap:anywhere}li li{margin-left:1.5rem}' +
  'p{margin:.2rem 0;white-space:pre-line}time{opacity:.8;font-size:.875em}form{display:grid;gap:.5rem;justify-items:start}' +
  'input,textarea{font:inherit;width:100%;max-width:36rem;box-sizing:border-box}button{font:inherit;padding:.3rem .9rem}.error{color:#b3261e}@media(prefers-color-scheme:dark){.error{color:#ff9c92}}'
const hash = (text: string) => `'sha256-${createHash('sha256').update(text).digest('base64')}'`

export const THREAD_POLICY = `default-src 'none'; style-src ${hash(STYLE)}; script-src ${hash(SCRIPT)}; form-action 'self'; base-uri 'none'`

export interface ThreadPage {
  site: string
  thread: string
  address: string
  title: string
  /** The latest comments. */
  comments: readonly ThreadComment[]
  total: number
  /** The submitted values and their errors. */
  typed?: { name: string; text: string; parent: string; error: string }
  note?: string
}

export function threadPage({
  site,
  thread,
  address,
  title,
  comments,
  total,
  typed,
  note,
}: ThreadPage): string {
  const below = new Map<string | null, ThreadComment[]>()
  const known = new Set(comments.map((one) => one.key))
  for (const one of comments) {
    const parent = one.parent !== null && known.has(one.parent) ? one.parent : null
    below.set(parent, [...(below.get(parent) ?? []), one])
  }
  const list = (parent: string | null, depth: number): string => {
    const own = below.get(parent) ?? []
    return own.length === 0 ? '' : `<ol>${own.map((one) => item(one, depth)).join('')}</ol>`
  }
  const item = (one: ThreadComment, depth: number) =>
    `<li id="${escape(one.key)}"><b><bdi>${escape(one.name)}</bdi></b> <time datetime="${escape(one.at)}">${escape(one.at.slice(0, 10))}</time><p>${escape(one.text)}</p>${depth < 6 ? list(one.key, depth + 1) : ''}</li>`
  const hidden = Object.entries({ site, thread, address, title })
    .map(([name, value]) => `<input type="hidden" name="${name}" value="${escape(value)}">`)
    .join('')
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>Comments on ${escape(title || thread)}</title><style>${STYLE}</style></head>
<body><main><h1 hidden>Comments</h1>${total > comments.length ? `<p>The latest ${comments.length} of ${total} comments.</p>` : ''}${list(null, 0) || '<p>No comments yet.</p>'}
<form method="post" action="/thread">${hidden}
${typed ? `<p class="error" role="alert">${escape(typed.error)}</p>` : ''}${note === undefined ? '' : `<p role="status">${escape(note)}</p>`}
<label for="name">Your name</label><input id="name" name="name" maxlength="80" required value="${escape(typed?.name ?? '')}">
<label for="text">Your comment</label><textarea id="text" name="text" rows="4" maxlength="4000" required>${escape(typed?.text ?? '')}</textarea>
<button>Send</button></form></main><script>${SCRIPT}</script></body></html>
`
}
