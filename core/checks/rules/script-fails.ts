/** Finds scripts that fail. */
import { browserRule } from '../browser-rule.ts'

export const scriptFails = browserRule({
  id: 'script-fails',
  meaning: 'A script of a page fails.',
  why: 'What the script does after the error does not happen.',
  kind: 'script',
  claim: 'No script of the opened pages fails',
})
