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
      message: `Rendering ${path} would not finish. ${reason}`,
      hint: 'Correct the template or the query, or save anyway.',
    }),
    '/posts',
    'It took longer than 8 s.',
  ),
  'definition-not-tried': wording(
    (reason: string) => ({
      message: `The definition could not be tried before it is saved. ${reason}`,
      hint: 'Try again, or save anyway.',
    }),
    'The connection to the database is lost.',
  ),
  'definition-not-read': wording(
    (reason: string) => ({
      message: `The definition could not be read. ${reason}`,
      hint: 'Shorten the document that was changed.',
    }),
    'It took longer than 10 s.',
  ),
})
