// Comparing two walks.
import { describe, expect, it } from 'vitest'
import type { WalkRecord } from '../../../contract/walk-record.ts'
import { changedLines, compareWalks } from './changes.ts'

const record = (changes: Partial<WalkRecord> = {}): WalkRecord => ({
  id: '1',
  at: '2026-11-24T12:00:00Z',
  method: 'GET',
  target: '/posts',
  as: 'reader',
  accepts: 'html',
  milliseconds: 1,
  route: {
    name: 'posts',
    pattern: '/posts',
    json: false,
    place: null,
    candidates: [],
    total: 1,
    note: null,
    milliseconds: 0,
  },
  parameters: [],
  queries: {
    runs: [
      {
        data: 'posts',
        query: 'all',
        document: null,
        sentence: 'published posts',
        outcome: 'rows',
        why: null,
        isUnpublished: false,
        parameters: {},
        statements: [],
        rows: 6,
        total: 41,
        isEstimated: false,
        shown: [],
        milliseconds: 1,
        read: [],
      },
    ],
    milliseconds: 1,
  },
  templates: { page: 'pages/listing', tree: [], rounds: 1, milliseconds: 1 },
  copy: null,
  fragments: [],
  submission: null,
  response: { status: 200, headers: {}, bytes: 3, body: 'a\nb\nc\n', milliseconds: 0 },
  failure: null,
  version: 'v',
  ...changes,
})
const sentences = (after: Partial<WalkRecord>) =>
  compareWalks(record(), record(after)).map((one) => `${one.stage}: ${one.sentence}`)
const [run] = record().queries.runs
const response = record().response

describe('compareWalks', () => {
  it('returns nothing for walks that differ only in time', () => {
    expect(sentences({ milliseconds: 99 })).toEqual([])
  })
  it.each<[Partial<WalkRecord>, string]>([
    [{ response: { ...response, body: 'a\nx\nc\n' } }, 'response: 1 line added, 1 removed'],
    [{ response: { ...response, status: 404 } }, 'response: status 404, before 200'],
    [{ route: { ...record().route, name: 'page' } }, 'route: answered by page, before by posts'],
    [
      { queries: { runs: run ? [{ ...run, rows: 4, total: 40 }] : [], milliseconds: 1 } },
      'queries: posts: 4 rows of 40, before 6 rows of 41',
    ],
    [{ queries: { runs: [], milliseconds: 1 } }, 'queries: posts is gone'],
    [
      { templates: { ...record().templates, page: 'pages/home' } },
      'templates: rendered by pages/home, before by pages/listing',
    ],
  ])('%#', (after, sentence) => {
    expect(sentences(after)).toContain(sentence)
  })
  it('ignores the token of the form, wherever a template prints it', () => {
    const form = (token: string) => `<input value="${token}" name="token" type="hidden">`
    const signature = 'q3F-_x9'.repeat(6)
    const [a, b] = ['6ec0bd7f-11c0-43da-975e-2a8ad9ebae0b', '109156be-c4fb-41ea-b1b4-efe1671c5836'].map(
      (id) => `${id}.mifxw2y7.${signature}.${signature}`,
    ) as [string, string]
    expect(changedLines(form(a), form(b)).map((one) => one.kind)).toEqual(['same'])
  })
})
