/** The documents of the demo's definition and of a new blog's, as tests read and change them. */
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { documentKind } from '../shapes/documents.ts'
import type { Problem } from '../shapes/problem.ts'
import { readDefinition } from '../blog/read.ts'

/** Path → text. */
function documentsOf(name: string): ReadonlyMap<string, string> {
  const folder = join(import.meta.dirname, '../../demo', name)
  return new Map(
    readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter((path) => documentKind(path) !== undefined)
      .map((path) => [path, readFileSync(join(folder, path), 'utf8')]),
  )
}

export const demo = documentsOf('cobble-lane')

/** The documents of a new blog. */
export const blank = documentsOf('blank')

/** Returns the demo with a changed or new document. */
export const withDocument = (path: string, change: (text: string) => string): ReadonlyMap<string, string> =>
  new Map([...demo, [path, change(demo.get(path) ?? '')]])

/** Returns the problems of a definition. */
export function problemsOf(documents: ReadonlyMap<string, string>): Problem[] {
  const result = readDefinition(documents)
  return result.ok ? [] : result.problems
}
