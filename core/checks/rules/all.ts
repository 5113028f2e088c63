/** Every rule, in the order in which they are run and told. */
import type { Rule } from '../rule.ts'
import { addressBuildFails } from './address-build-fails.ts'
import { draftReachable } from './draft-reachable.ts'
import { linkUnmatched } from './link-unmatched.ts'
import { redirectLoop } from './redirect-loop.ts'
import { routeNeverReached } from './route-never-reached.ts'
import { routeParameterMissing } from './route-parameter-missing.ts'
import { routeParameterUnused } from './route-parameter-unused.ts'
import { routesOverlap } from './routes-overlap.ts'
import { slugChangedNoRedirect } from './slug-changed-no-redirect.ts'
import { slugHiddenByRoute } from './slug-hidden-by-route.ts'

export const RULES: readonly Rule[] = [
  draftReachable,
  routeNeverReached,
  slugHiddenByRoute,
  redirectLoop,
  addressBuildFails,
  linkUnmatched,
  slugChangedNoRedirect,
  routeParameterMissing,
  routeParameterUnused,
  routesOverlap,
]
