/** Shows a page in a frame with other styles: those that are typed, in a chosen colour scheme. */

export type Scheme = 'light' | 'dark'

/** The styles that replace a stylesheet of a page. */
const replaced = new WeakMap<Document, Map<string, CSSStyleSheet>>()

/** A condition that always holds, and one that never does. They can stand wherever a media feature can. */
const HOLDS = '(min-width: 0px)'
const FAILS = '(max-width: 0px)'

/** Returns a stylesheet that decides on a scheme itself: a frame cannot be given one. */
const inScheme = (css: string, scheme: Scheme): string =>
  css.replace(/\(\s*prefers-color-scheme\s*:\s*(light|dark)\s*\)/gi, (_, wanted: string) =>
    wanted.toLowerCase() === scheme ? HOLDS : FAILS,
  )

/**
 * Replaces the stylesheets of a page.
 * @param styles the texts by the names of assets: `blog.css`
 */
export function restyle(page: Document, styles: Readonly<Record<string, string>>, scheme: Scheme): void {
  const Sheet = (page.defaultView as (Window & typeof globalThis) | null)?.CSSStyleSheet
  if (!Sheet) return
  const known = replaced.get(page) ?? new Map<string, CSSStyleSheet>()
  replaced.set(page, known)
  for (const link of page.querySelectorAll<HTMLLinkElement>('link[rel~="stylesheet"][href]')) {
    const { pathname } = new URL(link.href)
    // The name of an asset in an address has a hash of its text.
    const name = Object.keys(styles).find((one) => isAddressOf(pathname, one))
    const css = name === undefined ? undefined : styles[name]
    // Such sheets cannot import others.
    if (name === undefined || css === undefined || /@import/.test(css)) continue
    let sheet = known.get(name)
    if (!sheet) known.set(name, (sheet = new Sheet({ baseURL: link.href })))
    sheet.replaceSync(inScheme(css, scheme))
    link.disabled = true
  }
  page.adoptedStyleSheets = [...known.values()]
  page.documentElement.style.colorScheme = scheme
}

function isAddressOf(pathname: string, asset: string): boolean {
  const dot = asset.lastIndexOf('.')
  const file = pathname.slice(pathname.lastIndexOf('/') + 1)
  return file === asset || (file.startsWith(asset.slice(0, dot)) && file.endsWith(asset.slice(dot)))
}
