/** Plants faults that people make, and tests that a rule finds each of them, with a witness that holds. */
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { Finding } from '../../core/checks/finding.ts'
import { loadDocuments } from '../publish/documents.ts'
import { PLANTED, runRulesOf } from './checks.ts'
import { applySteps, restoreTexts, saveTexts } from './edits.ts'
import { testWorkbench, type TestWorkbench } from './workbench.ts'

export const BASE = 'templates/layouts/base.liquid'
export const CARD = 'templates/partials/card.liquid'
export const ASIDE = 'templates/partials/aside.liquid'
export const POST = 'templates/pages/post.liquid'
export const PAGER = 'templates/partials/pager.liquid'
export const SEARCH = 'templates/pages/search.liquid'
export const TAG = 'templates/pages/tag.liquid'
export const COMMENT = 'templates/partials/comment.liquid'
export const COMMENTS = 'templates/partials/comments.liquid'
export const FORM = 'templates/partials/comment-form.liquid'
export const ARCHIVE = 'templates/pages/archive.liquid'
export const NOT_FOUND = 'templates/pages/not-found.liquid'
export const PAGE_LINKS = 'templates/partials/page-links.liquid'
export const CSS = 'assets/blog.css'
export const query = (name: string) => `queries/${name}.yaml`

type Edit = readonly [path: string, part: string | RegExp, by: string]

/** Whether the fix of the first finding is tried, or there is none. */
type Fixed = 'fixed' | 'no fix'

/** A fault, the rule that finds it, and a part of the title of the finding. */
type PlantedFault = [string, Edit[], rule: string, part: string, Fixed]

/** @param area of the rules; there is a fault for each of them */
export function plantFaults(area: keyof typeof PLANTED, faults: PlantedFault[]): void {
  let test: TestWorkbench
  let stored: Map<string, string>
  beforeAll(async () => {
    test = await testWorkbench()
    stored = await loadDocuments(test.database)
  })
  afterAll(() => test.close())
  afterEach(() => restoreTexts(test.blog, stored))

  /** Replaces parts of documents, and saves them. */
  async function plant(edits: readonly Edit[]) {
    const texts: Record<string, string> = {}
    for (const [path, part, by] of edits) {
      const before = texts[path] ?? stored.get(path) ?? ''
      const after = before.replace(part, () => by)
      expect(after, `${path} has ${String(part)}`).not.toBe(before)
      texts[path] = after
    }
    const saved = await saveTexts(test.blog, texts)
    expect(saved.ok ? [] : saved).toEqual([])
  }

  const found = async (rule: string): Promise<Finding[]> => (await runRulesOf(test.blog, [rule])).findings

  it('faults are planted for each of these rules', () => {
    expect([...new Set(faults.map(([, , rule]) => rule))].sort()).toEqual([...PLANTED[area]].sort())
  })

  describe.each(faults)('%s', (_, edits, rule, part, fixed) => {
    it(`is found by ${rule}`, { timeout: 60_000 }, async () => {
      await plant(edits)
      const findings = await found(rule)
      const finding = findings.find((one) => one.title.includes(part))
      expect(findings.map((one) => one.title).join('\n')).toContain(part)
      const address = finding?.witness.address
      const actual = finding?.witness.actual ?? ''
      // A witness that names a status is answered with it.
      if (typeof address === 'string') {
        const { status } = await test.read(address)
        if (/^\d{3}$/.test(actual) && rule !== 'count-differs')
          expect([address, String(status)]).toEqual([address, actual])
        // The page for unknown addresses is the only one with another status.
        else expect([address, status]).toEqual([address, /^\/no-such-/.test(address) ? 404 : 200])
      }
      expect(finding?.fixes.length === 0 ? 'no fix' : 'fixed').toBe(fixed)
      if (fixed === 'no fix') return
      expect(await applySteps(test.blog, finding?.fixes[0]?.steps ?? [])).toMatchObject({ ok: true })
      expect((await found(rule)).map((one) => one.title)).not.toContain(finding?.title)
    })
  })
}
