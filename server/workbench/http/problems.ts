/** The problems of requests to the workbench. */
import { catalogue, wording } from '../../../core/shapes/catalogue.ts'

export const REQUEST_PROBLEMS = catalogue({
  'request-invalid': wording(
    (detail: string) => ({ message: 'The request is not valid.', hint: detail }),
    '“page” must be an integer.',
  ),
  'request-too-large': wording(
    (limit: number) => ({
      message: 'The request is too large.',
      hint: `The maximum is ${limit} MB.`,
    }),
    3,
  ),
  'request-null-character': wording(() => ({
    message: 'The request contains a null character, which no text can have.',
  })),
  'version-missing': wording(() => ({
    message: 'The version that this change is based on is missing.',
    hint: 'Send “version” in the body, or the ETag that was read as If-Match.',
  })),
  'operation-unknown': wording(() => ({
    message: 'There is no such operation.',
    hint: '/api/openapi.json describes all operations.',
  })),
  'host-unknown': wording(() => ({
    message: 'The workbench is not available under this address.',
    hint: 'Open the address that was printed when Esquina started.',
  })),
  'origin-foreign': wording(() => ({
    message: 'The request comes from another site.',
    hint: 'The workbench only answers its own pages.',
  })),
  'not-signed-in': wording(() => ({
    message: 'You are not signed in.',
    hint: 'Open the sign-in address that was printed when Esquina started, or send the key as a bearer token.',
  })),
  'key-wrong': wording(() => ({
    message: 'The key is wrong.',
    hint: 'It was printed when Esquina started.',
  })),
  'sign-in-too-often': wording(
    (seconds: number) => ({
      message: 'There were too many wrong keys.',
      hint: `Try again in ${seconds} seconds. The right key is accepted at any time.`,
    }),
    30,
  ),
  'database-unavailable': wording(() => ({
    message: 'The database does not respond.',
    hint: 'Check that PostgreSQL is running. The workbench reconnects automatically.',
  })),
  'internal-error': wording(
    (reason: string) => ({ message: 'Something went wrong.', hint: reason }),
    '“rows” is not iterable.',
  ),
})
