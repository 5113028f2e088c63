/** Markdown files with YAML front matter, read and written without loss. */
import { stringify } from 'yaml'
import { readYaml, type PlaceOf } from '../shapes/yaml.ts'
import { refused, type Failure } from '../shapes/outcome.ts'
import { YAML_PROBLEMS } from '../shapes/problems.ts'
import type { Static, TSchema } from '../shapes/schemas.ts'

export type MatterResult<T> = { ok: true; matter: T; body: string; placeOf: PlaceOf } | Failure

/** The maximum length of front matter, in characters. Reading it takes less than 100 ms. */
const MATTER_LIMIT = 20_000
const FENCES = 20
const FENCED = /^---[ \t]*\r?\n([\s\S]*?)(?:^|\r?\n)---[ \t]*(?:\r?\n|$)/

/** Splits the front matter from the text and validates it. */
export function readMatter<S extends TSchema>(
  file: string,
  text: string,
  schema: S,
): MatterResult<Static<S>> {
  const found = FENCED.exec(text.replace(/^\ufeff/, '').slice(0, MATTER_LIMIT + FENCES))
  const isCut = text.length > MATTER_LIMIT && text.startsWith('---')
  if (isCut && (found === null || found[0].length >= MATTER_LIMIT))
    return refused({ file, line: 1, column: 1, ...YAML_PROBLEMS['front-matter-too-long'](MATTER_LIMIT) })
  if (!found) return refused({ file, line: 1, column: 1, ...YAML_PROBLEMS['front-matter-missing']() })
  // The last line break belongs to the YAML: a text that keeps line breaks (`|+`) ends with it.
  const result = readYaml(file, `${found[1] ?? ''}\n`, schema, 2)
  if (!result.ok) return result
  const body = text
    .replace(/^\ufeff/, '')
    .slice(found[0].length)
    .replace(/^(\r?\n)+/, '')
  return { ok: true, matter: result.value, body, placeOf: result.placeOf }
}

/** Returns the file for front matter and a body. Undefined values are left out. */
export function writeMatter(matter: Record<string, unknown>, body: string): string {
  const kept = Object.fromEntries(
    Object.entries(matter).filter(([, value]) => value !== undefined && value !== null),
  )
  return `---\n${stringify(kept, { lineWidth: 0 })}---\n\n${body}`
}
