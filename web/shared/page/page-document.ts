/** Prepares a page of the blog for a frame of the workbench, under the blog's own content security policy. */

/** Directives that a `meta` element cannot set (HTML, 4.2.5.3 Pragma directives). */
const HEADER_ONLY = /^(frame-ancestors|report-uri|sandbox)\b/

/** Returns the policy for a frame at the workbench's origin: `'self'` becomes the blog's origin. */
const framePolicy = (policy: string, origin: string): string =>
  policy
    .split(';')
    .map((directive) => directive.trim())
    .filter((directive) => directive !== '' && !HEADER_ONLY.test(directive))
    .map((directive) => directive.replaceAll("'self'", origin))
    .join('; ')

const escapeAttribute = (text: string) => text.replace(/&/g, '&amp;').replace(/"/g, '&quot;')

/**
 * Returns the page's HTML without scripts, with its address as the base of relative addresses. The base comes first,
 * because the policy forbids one that follows it.
 * @param address of the page on the blog
 * @param policy the `content-security-policy` of its response
 */
export function pageDocument(html: string, address: string, policy: string): string {
  const { origin } = new URL(address)
  const base = `<base href="${escapeAttribute(address.replace(/[?#].*$/s, ''))}">`
  const meta = `<meta http-equiv="content-security-policy" content="${escapeAttribute(framePolicy(policy, origin))}">`
  const page = html.replace(/<script\b[\s\S]*?<\/script>/gi, '')
  return /<head\b[^>]*>/i.test(page)
    ? page.replace(/<head\b[^>]*>/i, (head) => `${head}${base}${meta}`)
    : page.replace(/^(\s*<!doctype[^>]*>)?/i, (doctype) => `${doctype}<head>${base}${meta}</head>`)
}
