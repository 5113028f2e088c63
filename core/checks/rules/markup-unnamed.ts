/** Finds what has no name or no order for readers who do not see the page, and for programs. */
import { markupRule } from '../markup-rule.ts'

/** Rules of the validator about titles, headings, labels and alternative texts. */
const OF_NAMES = new Set([
  ...['aria-label-misuse', 'area-alt', 'empty-heading', 'empty-title', 'heading-level', 'hidden-focusable'],
  ...['input-missing-label', 'multiple-labeled-controls', 'text-content', 'unique-landmark'],
])
export const isOfNames = (rule: string): boolean => OF_NAMES.has(rule) || rule.startsWith('wcag/')

export const markupUnnamed = markupRule({
  id: 'markup-unnamed',
  meaning: 'A title, a heading, a link, an image or a field of a page has no text, or headings skip a level.',
  why: 'Readers who listen to a page, search engines and browsers’ tabs have nothing else to tell it by.',
  isOwn: isOfNames,
  claim: 'Titles, headings, links, images and fields of every page validated have names',
  cause: 'A template or a text that the page shows prints it.',
})
