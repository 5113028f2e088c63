/** Validates the markup of pages. */
import { HtmlValidate, StaticConfigLoader } from 'html-validate/browser'
import { LRUCache } from 'lru-cache'
import type { MarkupFault } from '../../core/checks/facts.ts'
import { hashOf } from '../../core/shapes/hash.ts'

/** The rules of html-validate that are used. Rules of style are not. */
const RULES = [
  // Structure
  ...['close-attr', 'close-order', 'no-dup-attr', 'no-dup-class', 'no-dup-id', 'no-unknown-elements'],
  ...[
    'element-name',
    'element-permitted-content',
    'element-permitted-occurrences',
    'element-permitted-order',
  ],
  ...['element-permitted-parent', 'element-required-ancestor', 'element-required-attributes'],
  ...['element-required-content', 'void-content', 'attribute-allowed-values', 'attribute-misuse'],
  ...['map-id-name', 'missing-doctype', 'no-multiple-main', 'no-missing-references'],
  ...['deprecated', 'form-dup-name', 'input-attributes', 'meta-refresh', 'unrecognized-char-ref'],
  // Names and headings
  ...['aria-label-misuse', 'area-alt', 'empty-heading', 'empty-title', 'heading-level', 'hidden-focusable'],
  ...[
    'input-missing-label',
    'multiple-labeled-controls',
    'no-abstract-role',
    'text-content',
    'unique-landmark',
  ],
  ...['wcag/h30', 'wcag/h32', 'wcag/h36', 'wcag/h37', 'wcag/h63', 'wcag/h67', 'wcag/h71'],
]

let validator: HtmlValidate | undefined

const makeValidator = (): HtmlValidate =>
  new HtmlValidate(
    new StaticConfigLoader({
      root: true,
      elements: ['html5'],
      rules: {
        ...Object.fromEntries(RULES.map((rule) => [rule, 'error'])),
        'aria-label-misuse': ['error', { allowAnyNamable: true }],
      },
    }),
  )

/** The number of cached faults. Most pages stay the same between two runs, and validating a page takes 0.1 s. */
const CACHED = 20_000
const cached = new LRUCache<string, MarkupFault[]>({
  maxSize: CACHED,
  sizeCalculation: (faults) => faults.length + 1,
})

/** The token of a form, which differs in each response. */
const TOKEN = /(name="token" value=")[^"]*/g

/** Validates the markup of a page. */
export async function markupFaults(html: string): Promise<MarkupFault[]> {
  const key = hashOf(html.replace(TOKEN, '$1'))
  const known = cached.get(key)
  if (known) return known
  const { results } = await (validator ??= makeValidator()).validateString(html)
  const faults = results
    .flatMap((one) => one.messages)
    .map(({ ruleId, message, offset, size }) => ({
      rule: ruleId,
      message: `${message.replace(/"([^"]*)"/g, '“$1”')}${/[.?!]$/.test(message) ? '' : '.'}`,
      markup: tagAt(html, offset, size),
      context: contextAt(html, offset),
    }))
  cached.set(key, faults)
  return faults
}

/** The maximum length of a tag in a finding, in characters. */
const LONGEST = 120

/** Returns the tag at a position. */
function tagAt(html: string, offset: number, size: number): string {
  const start = html.lastIndexOf('<', offset)
  const end = html.indexOf('>', offset + size - 1)
  const tag = html.slice(Math.max(0, start), end === -1 ? undefined : end + 1)
  return tag.length > LONGEST ? `${tag.slice(0, LONGEST)}…` : tag
}

/** Characters of context. */
const AROUND = 300

/** Returns the markup from the tag before a position. */
function contextAt(html: string, offset: number): string {
  const own = html.lastIndexOf('<', offset)
  const start = Math.max(0, html.lastIndexOf('<', own - 1))
  return html.slice(start, start + AROUND)
}
