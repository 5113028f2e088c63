/** Addresses as pages have them. */

/** Returns the path of an address on this blog; undefined for others, and for a part of the same page. */
export const pathOf = (href: string, base: string): string | undefined => {
  const own = ownPath(href, base)
  return own === undefined ? undefined : withoutQuery(own)
}

/** Returns a path without its query string. */
export const withoutQuery = (path: string): string => path.replace(/\?.*$/s, '')

/** Returns the path and query string of an address on this blog; undefined for others, and for a part of the same page. */
export function ownPath(href: string, base: string): string | undefined {
  if (/^\s*(#|mailto:|tel:|data:|javascript:)/i.test(href)) return undefined
  try {
    const url = new URL(href.trim(), `http://blog.invalid${base}`)
    return url.host === 'blog.invalid' ? url.pathname + url.search : undefined
  } catch {
    return undefined
  }
}
