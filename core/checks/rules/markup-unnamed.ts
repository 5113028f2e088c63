/** Finds titles, headings, links, images and form fields without text, and headings that skip a level. */
import { markupRule } from '../markup-rule.ts'

/** Rules of the validator about titles, headings, labels and alternative text. */
const OF_NAMES = new Set([
  ...['aria-label-misuse', 'area-alt', 'empty-heading', 'empty-title', 'heading-level', 'hidden-focusable'],
  ...['input-missing-label', 'multiple-labeled-controls', 'text-content', 'unique-landmark'],
])
export const isOfNames = (rule: string): boolean => OF_NAMES.has(rule) || rule.startsWith('wcag/')

export const markupUnnamed = markupRule({
  id: 'markup-unnamed',
  meaning: 'A title, heading, link, image or form field has no text, or headings skip a level.',
  why: 'Screen readers and search engines depend on these texts.',
  isOwn: isOfNames,
  claim: 'Titles, headings, links, images and form fields of the validated pages have text',
  cause: 'A template prints it, or it is in a post or page.',
})
