/** Serves the built pages of the workbench. */
import { readFile } from 'node:fs/promises'
import { extname, join, normalize } from 'node:path'
import { gzipSync } from 'node:zlib'
import Negotiator from 'negotiator'

const TYPES: Readonly<Record<string, string>> = {
  '.html': 'text/html; charset=utf-8',
  '.js': 'text/javascript; charset=utf-8',
  '.css': 'text/css; charset=utf-8',
  '.svg': 'image/svg+xml',
  '.woff2': 'font/woff2',
  '.woff': 'font/woff',
}

interface File {
  type: string
  plain: Buffer<ArrayBuffer>
  packed: Buffer<ArrayBuffer>
}
const files = new Map<string, File>()

export interface BuiltPages {
  /** The folder of the built pages. */
  pages: string
  /** The origin of the blog, whose styles, fonts and images the workbench shows. */
  blogOrigin: string
}

/** Returns a built file, or the workbench's page for every other path, whose router reads the address. */
export async function servePage(
  { pages, blogOrigin }: BuiltPages,
  path: string,
  acceptEncoding: string | undefined,
): Promise<Response> {
  const isFile = /^\/(assets|favicon)[^?]*\.\w+$/.test(path) && !normalize(path).includes('..')
  const name = isFile ? path : '/index.html'
  let file = files.get(join(pages, name))
  if (!file) {
    try {
      const plain = await readFile(join(pages, name))
      file = { type: TYPES[extname(name)] ?? 'application/octet-stream', plain, packed: gzipSync(plain) }
    } catch {
      return new Response('Not found', { status: 404 })
    }
    if (isFile) files.set(join(pages, name), file)
  }
  const headers: Record<string, string> = {
    'content-type': file.type,
    'cache-control': isFile ? 'public, max-age=31536000, immutable' : 'no-store',
    'x-content-type-options': 'nosniff',
    'referrer-policy': 'no-referrer',
    vary: 'accept-encoding',
    'content-security-policy': policy(blogOrigin),
  }
  const negotiator = new Negotiator({ headers: { 'accept-encoding': acceptEncoding } })
  if (negotiator.encoding(['gzip', 'identity']) !== 'gzip') return new Response(file.plain, { headers })
  return new Response(file.packed, { headers: { ...headers, 'content-encoding': 'gzip' } })
}

/**
 * Inline styles are allowed for the workbench itself, because Ant Design writes its styles at run time. Frames that show
 * pages of the blog inherit this policy and add the blog's own, so this one allows all that the blog's allows.
 */
const policy = (blogOrigin: string) =>
  `default-src 'none'; script-src 'self'; connect-src 'self'; style-src 'self' 'unsafe-inline' ${blogOrigin}; font-src 'self' ${blogOrigin}; img-src 'self' data: https: ${blogOrigin}; frame-src 'self' about:; base-uri 'self' ${blogOrigin}; form-action 'self'; frame-ancestors 'none'`
