/** Finds scripts that fail. */
import { browserRule } from '../browser-rule.ts'

export const scriptFails = browserRule({
  id: 'script-fails',
  meaning: 'A script of a page fails.',
  why: 'The rest of the script does not run.',
  kind: 'script',
  claim: 'No script of the opened pages fails',
})
