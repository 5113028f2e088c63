/** Writes the documents in docs/ that are generated from the product's own tables. */
import { readFileSync, writeFileSync } from 'node:fs'
import { relative } from 'node:path'
import { root } from './dependencies.mjs'
import { PROBLEM_LIST, problemList } from './problem-list.ts'
import { REFERENCE, referenceText } from './reference.ts'

/** Path → text. */
export const generated = (): ReadonlyMap<string, string> =>
  new Map([
    [PROBLEM_LIST, problemList()],
    [REFERENCE, referenceText()],
  ])

export const textOf = (path: string) => readFileSync(path, { encoding: 'utf8', flag: 'a+' })

export function run(): void {
  for (const [path, wanted] of generated()) {
    if (textOf(path) === wanted) continue
    writeFileSync(path, wanted)
    console.log(`${relative(root, path)} was updated.`)
  }
}
