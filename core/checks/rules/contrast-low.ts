/** Finds text that differs too little from its background. */
import { browserRule } from '../browser-rule.ts'

export const contrastLow = browserRule({
  id: 'contrast-low',
  meaning: 'The contrast between a text and its background is too low.',
  why: 'Readers with low vision, on poor screens or in sunlight cannot read it. The minimum is that of WCAG 2.2, level AA.',
  kind: 'contrast',
  claim: 'axe-core finds no text with too little contrast on the opened pages, in both colour schemes',
})
