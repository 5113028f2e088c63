/** Reads the results of the tests from the reports of Vitest and Playwright. */
import { existsSync, readFileSync } from 'node:fs'
import { relative } from 'node:path'
import { root } from './dependencies.mjs'

export interface Counts {
  passed: number
  /** Failed tests by name, with their messages. */
  failed: string[]
  /** Names of tests that only passed when they were tried again. */
  again: string[]
}

/** Vitest's report on one file. */
export interface TestedFile {
  name: string
  status: string
  message: string
  assertionResults: { fullName: string; status: string; failureMessages: string[] | null }[]
}

export function testedFiles(report: string): TestedFile[] {
  if (!existsSync(report)) return []
  return (JSON.parse(readFileSync(report, 'utf8')) as { testResults: TestedFile[] }).testResults
}

/** Returns the errors outside of any test, as written by `unhandled.ts`. */
export const unhandledIn = (file: string): string[] =>
  existsSync(file)
    ? (JSON.parse(readFileSync(file, 'utf8')) as string[]).map(
        (one) => `outside of any test: ${firstLine(one)}`,
      )
    : []

const firstLine = (text = '') => text.trim().split('\n', 1)[0] ?? ''

/** Returns a line per failure. A file that does not load, or whose setup fails, has no failed test. */
export function failuresOf(file: TestedFile): string[] {
  if (file.status === 'passed') return []
  const name = relative(root, file.name)
  const failed = file.assertionResults.filter((one) => one.status === 'failed')
  if (failed.length === 0) return [`${name}: ${firstLine(file.message) || 'the setup failed'}`]
  return failed.map((one) => `${name}: ${one.fullName}: ${firstLine(one.failureMessages?.[0])}`)
}

export const passedOf = (files: TestedFile[]) =>
  files.flatMap((file) => file.assertionResults).filter((one) => one.status === 'passed').length

/** A part of Playwright's report. */
interface Suite {
  specs?: {
    file: string
    title: string
    tests: { status: string; results: { error?: { message?: string } }[] }[]
  }[]
  suites?: Suite[] | undefined
}

export function browserCounts(file: string): Counts {
  if (!existsSync(file))
    return { passed: 0, failed: ['The browser tests did not write a report.'], again: [] }
  const { suites } = JSON.parse(readFileSync(file, 'utf8')) as Suite
  const specsOf = (suite: Suite): NonNullable<Suite['specs']> => [
    ...(suite.specs ?? []),
    ...(suite.suites ?? []).flatMap(specsOf),
  ]
  const all = specsOf({ suites }).flatMap(({ file, title, tests }) =>
    tests.map((test) => ({ ...test, name: `${file}: ${title}` })),
  )
  const are = (status: string) => all.filter((one) => one.status === status)
  return {
    passed: are('expected').length + are('flaky').length,
    failed: are('unexpected').map((one) => `${one.name}: ${firstLine(one.results.at(-1)?.error?.message)}`),
    again: are('flaky').map((one) => one.name),
  }
}
