/** Finds what readers with assistive technology cannot use. */
import { browserRule } from '../browser-rule.ts'

export const pageInaccessible = browserRule({
  id: 'page-inaccessible',
  meaning: 'A part of a page cannot be used with assistive technology.',
  why: 'Readers who use a screen reader or a keyboard cannot reach or understand it. The rules are those of the WCAG 2.2, levels A and AA, that axe-core can test.',
  kind: 'access',
  claim: 'axe-core finds no fault in the opened pages',
})
