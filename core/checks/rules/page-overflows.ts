/** Finds pages that are wider than a narrow screen. */
import { browserRule } from '../browser-rule.ts'

export const pageOverflows = browserRule({
  id: 'page-overflows',
  meaning: 'A page scrolls sideways on a screen that is 320 pixels wide.',
  why: 'On phones, and when the page is enlarged to 400 %, readers must scroll in two directions (WCAG 2.2, 1.4.10).',
  kind: 'overflow',
  claim: 'No opened page scrolls sideways at a width of 320 pixels',
})
