/** The problems of building an address from a route's name and parameters. */
import { catalogue, wording } from '../shapes/catalogue.ts'

export const ADDRESS_PROBLEMS = catalogue({
  'address-route-unknown': wording(
    (route: string) => ({ message: `There is no route “${route}”.` }),
    'posts',
  ),
  'address-parameter-missing': wording(
    (route: string, name: string) => ({ message: `Route “${route}” needs “${name}”, which is empty.` }),
    'post',
    'slug',
  ),
  'address-parameter-malformed': wording(
    (name: string) => ({ message: `“${name}” contains half of a surrogate pair, which no address can.` }),
    'slug',
  ),
  'address-parameter-mismatch': wording(
    (text: string, name: string, meaning: string) => ({
      message: `“${text}” is not ${meaning}, so it cannot be “${name}”.`,
    }),
    'thirteen',
    'month',
    'a month from 1 to 12',
  ),
  'address-not-canonical': wording(
    (path: string, reason: string) => ({
      message: `“${path}” would be redirected, so the route would not receive its parameters. ${reason}`,
    }),
    '/posts/.',
    'Canonical form: no “.” or “..”.',
  ),
  'address-invalid': wording(
    (path: string) => ({ message: `“${path}” is not a valid address.` }),
    '/posts/%',
  ),
})
