/** The problems of operations that concern the workbench itself. */
import { catalogue, wording } from '../../core/shapes/catalogue.ts'

export const WORKBENCH_PROBLEMS = catalogue({
  'walk-no-statements': wording(
    (path: string, data: string) => ({ message: `${path} runs no statements for “${data}”.` }),
    '/posts',
    'related',
  ),
  'walk-no-form': wording(
    (path: string) => ({
      message: `No comment form is shown at ${path}.`,
      hint: 'Walk a page whose route is the “then” of an action.',
    }),
    '/posts',
  ),
  'query-run-failed': wording(
    (reason: string) => ({
      message: `PostgreSQL could not run the query: ${reason}.`,
    }),
    'canceling statement due to statement timeout',
  ),
  'query-parameter-invalid': wording(
    (name: string, text: string, expected: string) => ({
      message: `“${text}” is not ${expected}, which “:${name}” is compared with.`,
    }),
    'year',
    'soon',
    'an integer',
  ),
  'finding-unknown': wording(() => ({
    message: 'The checks do not find this any more.',
    hint: 'Read the findings again.',
  })),
  'browser-missing': wording(() => ({
    message: 'Chromium is not installed on this machine.',
    hint: 'Install it, on Debian with “apt install chromium”, or name another one in ESQUINA_CHROMIUM.',
  })),
  'growth-running': wording(() => ({
    message: 'Another measurement is running.',
    hint: 'Wait until it is done, or cancel it.',
  })),
  'settings-not-editable': wording(() => ({
    message: 'blog.yaml has a form that cannot be changed here.',
    hint: 'Edit blog.yaml itself.',
  })),
})
