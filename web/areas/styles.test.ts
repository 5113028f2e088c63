// Styles do not leak between areas: all stylesheets stay loaded once an area was opened.
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import postcss, { type Rule } from 'postcss'
import { describe, expect, it } from 'vitest'

/** The root classes of each area: of its screen, and of its dialogs, which Ant Design renders at the end of the body. */
const ROOTS: Record<string, readonly string[]> = {
  cache: ['cache', 'cache-rule', 'what-if'],
  changes: ['steps'],
  checks: ['checks'],
  comments: ['comments'],
  content: ['content', 'content-popup'],
  queries: ['queries', 'queries-popup'],
  routes: ['routes', 'routes-dialog'],
  'sign-in': ['sign-in'],
  templates: ['templates'],
  walk: ['walk'],
}

const web = join(import.meta.dirname, '..')

/** Returns the outermost selectors of a stylesheet, also of those inside `@media`. */
function outermost(file: string): string[] {
  const found: string[] = []
  postcss.parse(readFileSync(join(web, file), 'utf8')).walkRules((rule: Rule) => {
    let parent = rule.parent
    while (parent?.type === 'atrule') parent = parent.parent as typeof parent
    const isKeyframe =
      rule.parent?.type === 'atrule' && /keyframes$/.test((rule.parent as { name?: string }).name ?? '')
    if (parent?.type === 'root' && !isKeyframe) found.push(...rule.selectors)
  })
  return found
}

const sheets = readdirSync(web, { recursive: true, encoding: 'utf8' })
  .filter((file) => file.endsWith('.css'))
  .sort()
const areaOf = (file: string) => /^areas\/([^/]+)\//.exec(file)?.[1]

describe('stylesheets', () => {
  it('exist in every area that is named here', () => {
    expect([...new Set(sheets.flatMap((file) => areaOf(file) ?? []))]).toEqual(Object.keys(ROOTS).sort())
  })

  it.each(sheets.filter((file) => areaOf(file) !== undefined))(
    '%s only has rules below its own root classes',
    (file) => {
      const roots = ROOTS[areaOf(file) ?? ''] ?? []
      const selectors = outermost(file)
      expect(selectors.length).toBeGreaterThan(0)
      for (const selector of selectors) {
        const [, first] = /^\.([\w-]+)/.exec(selector) ?? []
        expect(roots, `${selector} of ${file}`).toContain(first)
      }
    },
  )

  it.each(sheets)('%s only refers to files that exist', (file) => {
    const text = readFileSync(join(web, file), 'utf8')
    for (const [, url = ''] of text.matchAll(/url\(\s*['"]?([^'")]+)/g))
      if (!/^(data:|#)/.test(url)) expect(existsSync(join(web, file, '..', url)), url).toBe(true)
  })

  it('of the shared parts do not style the root class of an area or of another part', () => {
    const owners = new Map<string, Set<string>>()
    for (const file of sheets) {
      // The frame styles what all screens are made of.
      if (file.startsWith('shared/frame/')) continue
      const owner = areaOf(file) ?? file
      for (const selector of outermost(file)) {
        const first = /^\.([\w-]+)/.exec(selector)?.[1] ?? selector
        owners.set(first, (owners.get(first) ?? new Set()).add(owner))
      }
    }
    expect(
      [...owners].filter(([, files]) => files.size > 1).map(([root, files]) => [root, ...files]),
    ).toEqual([])
  })
})
