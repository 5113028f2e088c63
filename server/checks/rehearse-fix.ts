/** Tries a fix before it is offered: the checks run on the blog as it would be, and nothing is saved. */
import type { EntityManager } from 'typeorm'
import type { Finding, Fix } from '../../core/checks/finding.ts'
import { runRules, type CheckResult } from '../../core/checks/run.ts'
import { RULES } from '../../core/checks/rules/all.ts'
import type { ChangeStep } from '../../core/shapes/changes.ts'
import type { Failure } from '../../core/shapes/outcome.ts'
import { applyChanges, isOfDefinition } from '../author/changes.ts'
import { Writing } from '../author/writing.ts'
import { loadDocuments } from '../publish/documents.ts'
import type { ClockPort, Publishing, SitePort, StorePort } from '../publish/ports.ts'
import { siteOf } from '../publish/in-thread.ts'
import type { Queryable } from '../store/connection.ts'
import type { Counted } from './copy-facts.ts'
import { collectFacts, type FactPorts } from './facts.ts'

export type FixPorts = FactPorts & StorePort & SitePort & ClockPort

export interface FixTrial {
  blog: FixPorts
  signal: AbortSignal
  /** All findings of the blog as it is. */
  before: readonly Finding[]
  counted: Counted
}

/** Content steps are applied without the definition, whose documents need no transaction. */
const NO_PUBLISHING: Publishing = { tryOut: () => Promise.resolve([]), activate: () => [] }

/**
 * Returns why a fix is not offered: it cannot be applied, it leaves the finding, or it makes another one. null if none
 * of these is so.
 */
export async function whyNotOffered(trial: FixTrial, finding: Finding, fix: Fix): Promise<string | null> {
  const { blog } = trial
  const documents = changedDocuments(await loadDocuments(blog.database), fix.steps)
  const built = siteOf(blog.database, documents)
  if (!built.ok) return failureText(built)
  const content = fix.steps.filter((step) => !isOfDefinition(step))
  const check = (manager: EntityManager, pool: Queryable) => {
    const changed = blog.withoutFragments({ pool, site: built.value })
    return runRules(
      RULES,
      collectFacts({ ...trial, blog: changed, manager, site: built.value, documents }),
      () => performance.now(),
      { signal: trial.signal },
    )
  }
  if (content.length === 0) return verdict(trial, finding, await check(blog.database.manager, blog.pool))
  let manager = blog.database.manager
  const rehearsed = await blog.store.rehearse(
    (unit) => {
      manager = unit.manager
      return applyChanges(new Writing(unit, built.value.definition, blog.clock()), content, NO_PUBLISHING)
    },
    (pool) => check(manager, pool),
  )
  return rehearsed.ok ? verdict(trial, finding, rehearsed.value) : failureText(rehearsed)
}

function changedDocuments(stored: Map<string, string>, steps: readonly ChangeStep[]): Map<string, string> {
  for (const step of steps) {
    if (!isOfDefinition(step)) continue
    if (step.do === 'save-document') stored.set(step.document, step.text)
    else stored.delete(step.document)
  }
  return stored
}

const failureText = ({ problems }: Failure) => problems.map((one) => one.message).join(' ')

const keyOf = ({ rule, subject }: Finding) => `${rule} ${subject}`

function verdict({ before }: FixTrial, finding: Finding, after: CheckResult): string | null {
  const failed = after.runs.find((one) => one.failed !== null)
  if (failed) return `The check ${failed.rule} failed: ${failed.failed ?? ''}`
  if (after.findings.some((one) => keyOf(one) === keyOf(finding))) return 'The finding would remain.'
  const known = new Set(before.map(keyOf))
  const countOf = (findings: readonly Finding[], rule: string) =>
    findings.filter((one) => one.rule === rule).length
  // A line that moves gives a known finding another subject, so it only counts if its check finds more than before.
  const added = after.findings.find((one) => {
    const own = one.rule === finding.rule ? 1 : 0
    return !known.has(keyOf(one)) && countOf(after.findings, one.rule) > countOf(before, one.rule) - own
  })
  return added ? `It would cause another finding: ${added.title}.` : null
}
