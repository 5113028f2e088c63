// The Checks area over the API.
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { CheckFixes, CheckReport } from '../../../contract/checks.ts'
import { BROWSER_RULES, RULES } from '../../../core/checks/rules/all.ts'
import { saveTexts, textOf } from '../../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

it('findings are dismissed with a reason, and reopened', async () => {
  await saveTexts(test.blog, { 'queries/unused.yaml': 'from: tags\ntake: all\n' })
  const { answer } = await test.api<CheckReport>('POST', '/api/checks/run')
  expect([answer.failed, answer.rules.length]).toEqual([[], RULES.length + BROWSER_RULES.length])
  const [first] = answer.findings
  expect(first).toMatchObject({ rule: 'query-unused', subject: 'unused', dismissed: null })
  const named = { rule: 'query-unused', subject: 'unused' }
  await test.api('PUT', '/api/checks/dismissed', { ...named, reason: 'for a test' })
  const after = async () => (await test.api<CheckReport>('GET', '/api/checks')).answer.findings[0]
  expect(await after()).toMatchObject({ ...named, dismissed: { reason: 'for a test' } })
  await test.api('DELETE', `/api/checks/dismissed?${new URLSearchParams(named).toString()}`)
  expect((await after())?.dismissed).toBeNull()
})

it('a fix is applied and undone by the same operation', async () => {
  await test.api('POST', '/api/checks/run')
  const { answer } = await test.api<CheckFixes>('GET', '/api/checks/fixes?rule=query-unused&subject=unused')
  const [fix] = answer.offered
  const applied = await test.api<{ undo: object[] }>('POST', '/api/changes', { steps: fix?.steps })
  expect(applied.status).toBe(200)
  await expect(textOf(test.blog, 'queries/unused.yaml')).rejects.toThrow()
  expect((await test.api('POST', '/api/changes', { steps: applied.answer.undo })).status).toBe(200)
  expect(await textOf(test.blog, 'queries/unused.yaml')).toBe('from: tags\ntake: all\n')
})

it('a dismissal needs a reason', async () => {
  const body = { rule: 'query-unused', subject: 'unused', reason: '' }
  const { status, answer } = await test.api('PUT', '/api/checks/dismissed', body)
  expect([status, answer['code']]).toEqual([400, 'request-invalid'])
})
