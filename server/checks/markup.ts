/** Validates the markup of pages. */
import { HtmlValidate, StaticConfigLoader } from 'html-validate/browser'
import { LRUCache } from 'lru-cache'
import type { MarkupFault } from '../../core/checks/facts.ts'
import { hashOf } from '../../core/shapes/hash.ts'

/** Rules of html-validate, without those that are a matter of taste. */
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
  // Use without seeing the page
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

const made = (): HtmlValidate =>
  new HtmlValidate(
    new StaticConfigLoader({
      root: true,
      elements: ['html5'],
      rules: {
        ...Object.fromEntries(RULES.map((rule) => [rule, 'error'])),
        'aria-label-misuse': ['error', { allowAnyNamable: true }],
        'no-missing-references': ['error'],
      },
    }),
  )

/** Pages of which the faults are remembered: most pages are the same in the next run, and validating one takes 0.1 s. */
const REMEMBERED = 500
const known = new LRUCache<string, Promise<MarkupFault[]>>({ max: REMEMBERED })

/** The token of a form, which is another one each time. */
const TOKEN = /(name="token" value=")[^"]*/g

/** Returns what is wrong in the markup of a page. */
export function markupFaults(html: string): Promise<MarkupFault[]> {
  const key = hashOf(html.replace(TOKEN, '$1'))
  let faults = known.get(key)
  if (!faults) known.set(key, (faults = validate(html)))
  return faults
}

async function validate(html: string): Promise<MarkupFault[]> {
  const { results } = await (validator ??= made()).validateString(html)
  return results
    .flatMap((one) => one.messages)
    .map(({ ruleId, message, offset, size }) => ({
      rule: ruleId,
      message: `${message.replace(/"([^"]*)"/g, '“$1”')}${/[.?!]$/.test(message) ? '' : '.'}`,
      markup: excerptAt(html, offset, size),
      context: contextAt(html, offset),
    }))
}

/** Characters of markup that are shown. */
const LONGEST = 120

/** Returns the tag in which a place is. */
function excerptAt(html: string, offset: number, size: number): string {
  const start = html.lastIndexOf('<', offset)
  const end = html.indexOf('>', offset + size - 1)
  return html
    .slice(Math.max(0, start), end === -1 ? offset + LONGEST : end + 1)
    .slice(0, LONGEST)
    .trim()
}

/** Characters of markup around a tag. */
const AROUND = 300

/** Returns the markup from the tag before a place. */
function contextAt(html: string, offset: number): string {
  const own = html.lastIndexOf('<', offset)
  const start = Math.max(0, html.lastIndexOf('<', own - 1))
  return html.slice(start, start + AROUND)
}
