/** The problems that are found when a definition is tried before it counts. */
import { catalogue, wording } from '../../core/shapes/catalogue.ts'

export const TRIAL_PROBLEMS = catalogue({
  'address-would-fail': wording(
    (method: string, path: string, status: number, message: string) => ({
      message: `${method === 'GET' ? '' : `${method} `}${path} would answer ${status}: ${message}`,
      hint: 'Correct it, or save anyway.',
    }),
    'GET',
    '/posts/moth',
    500,
    '“raw” prints safe HTML only, and this value is plain text.',
  ),
  'address-would-not-end': wording(
    (path: string, reason: string) => ({
      message: `${path} would not be rendered to its end. ${reason}`,
      hint: 'Correct the template or the query, or save anyway.',
    }),
    '/posts',
    'It took longer than 8 s.',
  ),
  'definition-too-slow': wording(
    (seconds: number) => ({
      message: `Reading the definition took longer than ${seconds} s.`,
      hint: 'Shorten the document that was changed.',
    }),
    10,
  ),
})
