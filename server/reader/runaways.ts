/**
 * Remembers addresses whose rendering was stopped because of the work that it did. They answer 500 at once until the
 * definition or the content changes, so that a runaway template costs other readers its limit once. A page that was only
 * slow because the machine was busy is not remembered.
 */
import { TemplateFailure } from '../../core/templates/failure.ts'
import type { FragmentStore } from '../../core/caching/store.ts'
import type { Site } from '../publish/site.ts'

const STOPPED = 'template-runaway'
/** Addresses that are remembered. */
const MOST = 1_000

interface Known {
  site: Site
  generation: number
  failures: Map<string, TemplateFailure>
}

/** By the store of copies, which each blog has of its own and which grows with each change of content. */
const known = new WeakMap<FragmentStore, Known>()

function current(store: FragmentStore, site: Site): Map<string, TemplateFailure> {
  let found = known.get(store)
  if (found?.site !== site || found.generation !== store.generation) {
    found = { site, generation: store.generation, failures: new Map() }
    known.set(store, found)
  }
  return found.failures
}

/** Returns the failure of an address that was stopped before. Its query string does not matter. */
export function runawayAt(store: FragmentStore, site: Site, target: string): TemplateFailure | undefined {
  const failures = current(store, site)
  return failures.size === 0 ? undefined : failures.get(pathOf(target))
}

/** Notes an error of a request, if it was stopped. */
export function noteRunaway(store: FragmentStore, site: Site, target: string, error: unknown): void {
  if (!(error instanceof TemplateFailure) || error.problem.code !== STOPPED) return
  const failures = current(store, site)
  if (failures.size < MOST) failures.set(pathOf(target), error)
}

const pathOf = (target: string) => target.replace(/\?.*$/s, '')
