/** Decides what a content security policy blocks (CSP Level 3), as far as pages of the blog need it. */
import type { InlineKind } from './page/shape.ts'

/** The directive for each kind of resource that a page loads. */
const DIRECTIVES: Readonly<Record<string, string>> = {
  image: 'img-src',
  icon: 'img-src',
  'apple-touch-icon': 'img-src',
  stylesheet: 'style-src',
  font: 'font-src',
  script: 'script-src',
  modulepreload: 'script-src',
  video: 'media-src',
  audio: 'media-src',
  track: 'media-src',
  frame: 'frame-src',
  'embedded file': 'object-src',
  manifest: 'manifest-src',
  connection: 'connect-src',
}

/** Returns the sources of a directive, or those of `default-src`. */
function sourcesOf(policy: string, directive: string): string[] {
  const directives = new Map(
    policy.split(';').map((one) => {
      const [name = '', ...sources] = one.trim().split(/\s+/)
      return [name.toLowerCase(), sources] as const
    }),
  )
  return directives.get(directive) ?? directives.get('default-src') ?? ['*']
}

/**
 * Whether a policy blocks a resource.
 * @param src its address as the page has it
 * @param isOwn whether that is an address of the blog
 */
export function blocksResource(policy: string, kind: string, src: string, isOwn: boolean): boolean {
  const directive = DIRECTIVES[kind]
  if (directive === undefined) return false
  const sources = sourcesOf(policy, directive)
  const [, scheme = 'https:'] = /^([a-z][a-z0-9+.-]*:)/i.exec(src.trim()) ?? []
  return !sources.some(
    (source) =>
      source === '*' ||
      (source === "'self'" && isOwn) ||
      (!isOwn && source === scheme.toLowerCase()) ||
      (/^https?:\/\//.test(source) && `${src.trim()}/`.startsWith(`${source}/`)),
  )
}

/** Whether a policy blocks a style or a script in the page itself. A hash is taken to be that of the element. */
export function blocksInline(policy: string, kind: InlineKind): boolean {
  const sources = sourcesOf(policy, kind.startsWith('style') ? 'style-src' : 'script-src')
  const isElement = kind.endsWith('element')
  return !sources.some((one) => one === "'unsafe-inline'" || (isElement && /^'(sha\d+|nonce)-/.test(one)))
}
