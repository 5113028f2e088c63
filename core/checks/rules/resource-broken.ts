/** Finds images, styles, scripts, icons and fonts that a page loads and that do not exist. */
import { assetPath } from '../../shapes/documents.ts'
import { crawl } from '../crawl.ts'
import type { Facts } from '../facts.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { ownPath } from '../page/addresses.ts'
import { lineAt, witness, type Rule, type RuleFinding } from '../rule.ts'

interface Use {
  kind: string
  /** The page that loads it; null for a stylesheet. */
  page: string | null
  document: string | null
  line: number | null
}

export const resourceBroken: Rule = {
  id: 'resource-broken',
  area: 'templates',
  meaning: 'A page loads an image, a stylesheet, a script, an icon or a font that does not exist.',
  why: 'Readers see a gap or a page without styles.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const uses = new Map<string, Use>()
    const { origin } = facts.definition.settings
    for (const { path, route, resources, head } of pages) {
      const shared = head.shared.get('og:image') ?? ''
      const image = { src: ownAddress(shared, origin), kind: 'image for other sites' }
      for (const { src, kind } of shared === '' ? resources : [...resources, image]) {
        const own = ownPath(src, path)
        if (own === undefined || uses.has(own)) continue
        const file = own.replace(/^.*\//, '').replace(/\?.*$/, '')
        const place = file === '' ? null : placeInTemplates(facts, route, literally(file))
        uses.set(own, { kind, page: path, document: place?.document ?? null, line: place?.line ?? null })
      }
    }
    for (const [own, use] of [...inStyles(facts), ...inScripts(facts)]) if (!uses.has(own)) uses.set(own, use)
    // Images that texts and templates name are reported where they are written.
    const written = new Set((await facts.shownImages()).map((one) => one.src))
    const findings: RuleFinding[] = []
    for (const [path, use] of uses) {
      if (written.has(path)) continue
      const status = await facts.status(path)
      if (status >= 200 && status < 400) continue
      const where = use.page ?? use.document ?? ''
      findings.push({
        subject: path,
        title: `${where} loads ${path}, which answers ${status}`,
        detail: `It is loaded as ${use.kind}.`,
        affects: 'now',
        witness: witness(path, `${path} answers ${status}`, String(status), '200'),
        cause: 'The address is wrong, or the file was deleted.',
        place: use.document === null ? null : { document: use.document, line: use.line },
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      // Pages that were not requested may load other things.
      claim: isComplete
        ? {
            sentence: 'Everything that linked pages load exists',
            tested: uses.size,
            things: ['resource', 'resources'],
          }
        : null,
    }
  },
}

/** Returns an address without the origin of the blog, which addresses for other sites have. */
const ownAddress = (address: string, origin: string | undefined): string =>
  origin !== undefined && address.startsWith(`${origin}/`) ? address.slice(origin.length) : address

function* inStyles({ definition }: Facts): Generator<[string, Use]> {
  for (const [name, css] of definition.assets) {
    if (!name.endsWith('.css')) continue
    const document = assetPath(name)
    for (const { 1: quoted = '', index } of css.matchAll(/url\(\s*["']?([^"')]+)["']?\s*\)/g)) {
      const path = ownPath(quoted, '/assets/')
      if (path !== undefined) yield [path, { kind: 'file', page: null, document, line: lineAt(css, index) }]
    }
    for (const { 1: quoted = '', index } of css.matchAll(/@import\s+["']([^"']+)["']/g)) {
      const path = ownPath(quoted, '/assets/')
      if (path !== undefined)
        yield [path, { kind: 'stylesheet', page: null, document, line: lineAt(css, index) }]
    }
  }
}

/** Yields the addresses of this blog that scripts request and that are written out. */
function* inScripts({ definition }: Facts): Generator<[string, Use]> {
  for (const [name, script] of definition.assets) {
    if (!name.endsWith('.js')) continue
    const document = assetPath(name)
    // Without further arguments: a request with another method has another answer.
    for (const { 1: path = '', index } of script.matchAll(
      /\bfetch\(\s*['"`](\/(?!\/)[^'"`\s${}]*)['"`]\s*\)/g,
    ))
      yield [path, { kind: 'data of a script', page: null, document, line: lineAt(script, index) }]
  }
}
