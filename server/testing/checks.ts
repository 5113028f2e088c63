/** Runs single rules on a blog, without the others. */
import type { CheckResult } from '../../core/checks/run.ts'
import { runRules } from '../../core/checks/run.ts'
import { RULES } from '../../core/checks/rules/all.ts'
import type { Counted } from '../checks/copy-facts.ts'
import { collectFacts } from '../checks/facts.ts'
import { loadDocuments } from '../publish/documents.ts'
import type { Blog } from '../reader/blog.ts'

/** The rules on comments that add some. */
export const COMMENT_RULES: readonly string[] = RULES.filter(
  (one) => one.area === 'comments' && one.id !== 'comments-unbounded' && one.id !== 'thread-split-by-address',
).map((one) => one.id)

/** The rules on rendered pages, lists and links, which have a test file of their own. */
export const PAGE_RULES: readonly string[] = [
  'asset-invalid',
  'resource-broken',
  'link-broken',
  'html-escaped',
  'policy-blocks',
  'pager-wrong',
  'redirect-nowhere',
  'listing-same-everywhere',
  'listing-cut',
  'related-includes-itself',
  'order-missing',
  'address-unlinked',
  'title-duplicate',
  'term-empty',
  'template-attribute-unquoted',
]

/** The rules for which `planted-faults.ts` plants faults in the demo, by area. */
export const PLANTED = {
  assets: [
    'focus-hidden',
    'asset-without-effect',
    'policy-blocks',
    'resource-broken',
    'script-finds-nothing',
    'script-name-unknown',
    'security-txt-expired',
    'style-hides-text',
    'style-ignored',
  ],
  comments: [
    'comment-form-when-closed',
    'comment-length-differs',
    'comment-link-followed',
    'comment-reply-lost',
    'comments-not-shown',
    'error-misplaced',
    'form-wrong',
    'honeypot-noticed',
    'markup-invalid',
  ],
  lists: [
    'condition-idle',
    'count-differs',
    'list-narrowed',
    'listing-same-everywhere',
    'order-missing',
    'order-wrong',
    'pager-wrong',
    'rows-not-shown',
    'slug-compared',
    'term-lacks-post',
    'terms-cut',
  ],
  markup: ['attribute-wrong', 'list-empty', 'markup-repeated'],
  pages: [
    'anchor-missing',
    'current-wrong',
    'feed-elsewhere',
    'head-incomplete',
    'heading-missing',
    'image-unsized',
    'language-wrong',
    'link-broken',
    'link-elsewhere',
    'link-parameter-unknown',
    'link-to-itself',
    'list-repeats',
    'month-misnamed',
    'page-fails',
    'structured-data-wrong',
    'time-unreadable',
  ],
  templates: [
    'template-argument-wrong',
    'template-comment-as-typed',
    'template-date-format',
    'template-field-not-fetched',
    'template-filter-fails',
    'template-name-unknown',
    'template-page-counted',
    'template-print-wrong',
    'template-slug-expected',
    'template-value-empty',
    'text-not-shown',
  ],
} as const

/** All of them. */
export const PLANTED_RULES: readonly string[] = Object.values(PLANTED).flat()

/** @throws if one of them fails to run */
export async function runRulesOf(
  blog: Blog,
  ids: readonly string[],
  counted: Counted = {},
): Promise<CheckResult> {
  const documents = await loadDocuments(blog.database)
  const { manager } = blog.database
  const signal = new AbortController().signal
  const facts = collectFacts({ blog, manager, site: blog.site, documents, counted, signal })
  const rules = RULES.filter((one) => ids.includes(one.id))
  const result = await runRules(rules, facts, () => performance.now())
  for (const { rule, failed } of result.runs) if (failed !== null) throw new Error(`${rule}: ${failed}`)
  if (rules.length !== ids.length) throw new Error(`One of these is no rule: ${ids.join(', ')}`)
  return result
}
