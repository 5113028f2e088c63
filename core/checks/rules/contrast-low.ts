/** Finds text that differs too little from its background. */
import { browserRule } from '../browser-rule.ts'

export const contrastLow = browserRule({
  id: 'contrast-low',
  meaning: 'The contrast between a text and its background is too low.',
  why: 'Readers with weak sight, on poor screens or in the sun cannot read it. The minimum is that of the WCAG 2.2, level AA.',
  kind: 'contrast',
  claim: 'All text on the opened pages has enough contrast in both colour schemes',
})
