/** A Markdown file with YAML front matter: read and written without loss. */
import { stringify } from 'yaml'
import { readYaml, type PlaceOf } from '../shapes/yaml.ts'
import type { Problem } from '../shapes/problem.ts'
import type { Static, TSchema } from '../shapes/schemas.ts'

export type MatterResult<T> =
  { ok: true; matter: T; body: string; placeOf: PlaceOf } | { ok: false; problems: Problem[] }

const FENCED = /^---[ \t]*\r?\n([\s\S]*?)(?:^|\r?\n)---[ \t]*(?:\r?\n|$)/

/** Splits `---` front matter from the text and checks it. */
export function readMatter<S extends TSchema>(
  file: string,
  text: string,
  schema: S,
): MatterResult<Static<S>> {
  const found = FENCED.exec(text.replace(/^\ufeff/, ''))
  if (!found) {
    return {
      ok: false,
      problems: [
        {
          file,
          line: 1,
          column: 1,
          message: 'the front matter is missing',
          hint: 'begin the file with “---”, then “title: …”, then “---”',
        },
      ],
    }
  }
  // With the end of its last line: a text kept to its last line break (`|+`) has it.
  const result = readYaml(file, `${found[1] ?? ''}\n`, schema, 2)
  if (!result.ok) return result
  const body = text
    .replace(/^\ufeff/, '')
    .slice(found[0].length)
    .replace(/^(\r?\n)+/, '')
  return { ok: true, matter: result.value, body, placeOf: result.placeOf }
}

/** The file for front matter and a body; undefined values are left out. */
export function writeMatter(matter: Record<string, unknown>, body: string): string {
  const kept = Object.fromEntries(
    Object.entries(matter).filter(([, value]) => value !== undefined && value !== null),
  )
  return `---\n${stringify(kept, { lineWidth: 0 })}---\n\n${body}`
}
