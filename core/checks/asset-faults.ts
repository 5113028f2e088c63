/** Finds where stylesheets and scripts do not parse, and what stylesheets load from other sites (css-tree; acorn). */
import { parse as parseScript } from 'acorn'
import { parse as parseStyles, walk, type CssNode } from 'css-tree'

export interface AssetFault {
  line: number
  message: string
}

/** @param name of the asset, e.g. `blog.css` */
export function assetFaults(name: string, text: string): AssetFault[] {
  if (name.endsWith('.css')) return styleFaults(text)
  return name.endsWith('.js') ? scriptFaults(text) : []
}

function styleFaults(css: string): AssetFault[] {
  const faults: AssetFault[] = []
  parseStyles(css, {
    positions: true,
    onParseError: (error) =>
      faults.push({ line: error.line, message: `${error.message}.`.replace(/\.+$/, '.') }),
  })
  const comment = openComment(css)
  if (comment !== undefined)
    faults.push({ line: comment, message: 'The comment that begins here is not closed before the next one.' })
  const open = openBlock(css)
  if (open !== undefined) faults.push({ line: open, message: 'The block that begins here is not closed.' })
  return faults
}

/** Returns the line of a comment in which another one begins, so that the styles between them are part of it. */
function openComment(css: string): number | undefined {
  for (const { 0: comment, index } of css.matchAll(/\/\*[\s\S]*?(\*\/|$)/g))
    if (/\n[ \t]*\/\*/.test(comment) && comment.includes('{')) return css.slice(0, index).split('\n').length
  return undefined
}

/** Returns the line of a block that is not closed: css-tree closes it at the end, as browsers do. */
function openBlock(css: string): number | undefined {
  const bare = css.replace(/\/\*[\s\S]*?(\*\/|$)|"(\\.|[^"\\\n])*"|'(\\.|[^'\\\n])*'/g, (part) =>
    part.replace(/[^\n]/g, ' '),
  )
  const open: number[] = []
  for (const { 0: sign, index } of bare.matchAll(/[{}]/g)) {
    if (sign === '{') open.push(index)
    else open.pop()
  }
  const [first] = open
  return first === undefined ? undefined : bare.slice(0, first).split('\n').length
}

function scriptFaults(script: string): AssetFault[] {
  const types = ['script', 'module'] as const
  const faults: AssetFault[] = []
  for (const sourceType of types)
    try {
      parseScript(script, { ecmaVersion: 'latest', sourceType })
      return []
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error
      const { loc } = error as SyntaxError & { loc?: { line: number } }
      faults.push({ line: loc?.line ?? 1, message: `${error.message.replace(/ \(\d+:\d+\)$/, '')}.` })
    }
  return faults.slice(0, 1)
}

export interface ExternalAddress {
  asset: string
  line: number
  src: string
  /** E.g. `stylesheet`, `font` or `image`. */
  kind: string
}

/** Returns what stylesheets load from other sites. */
export function externalAddresses(assets: ReadonlyMap<string, string>): ExternalAddress[] {
  const found: ExternalAddress[] = []
  for (const [asset, text] of assets) {
    if (!asset.endsWith('.css')) continue
    walk(parseStyles(text, { positions: true }), function (node: CssNode) {
      const at = this.atrule?.name.toLowerCase()
      const src =
        node.type === 'Url' ? node.value : node.type === 'String' && at === 'import' ? node.value : ''
      if (!/^(https?:)?\/\//i.test(src)) return
      const kind = at === 'import' ? 'stylesheet' : at === 'font-face' ? 'font' : 'image'
      found.push({ asset, line: node.loc?.start.line ?? 1, src, kind })
    })
  }
  return found
}

/** Calls of a script that connect to an address which is written out: `fetch('https://…')`, `request.open('GET', 'https://…')`. */
const CONNECTING =
  /(?:\b(fetch|sendBeacon|WebSocket|EventSource)\s*\(\s*|\.(open)\s*\(\s*['"][A-Z]{3,7}['"]\s*,\s*)['"`]((?:https?|wss?):\/\/[^'"`\s]+)/g

export interface Connection {
  asset: string
  line: number
  /** E.g. `fetch`. */
  call: string
  address: string
}

/** Returns the addresses of other sites that scripts connect to. @param origin of the blog */
export function connectionsToOthers(
  assets: ReadonlyMap<string, string>,
  origin: string | undefined,
): Connection[] {
  return [...assets].flatMap(([asset, text]) =>
    asset.endsWith('.js')
      ? [...text.matchAll(CONNECTING)].flatMap(({ index, 1: function_, 2: method, 3: address = '' }) =>
          URL.canParse(address) && new URL(address).origin === origin
            ? []
            : [
                {
                  asset,
                  line: text.slice(0, index).split('\n').length,
                  call: function_ ?? method ?? '',
                  address,
                },
              ],
        )
      : [],
  )
}
