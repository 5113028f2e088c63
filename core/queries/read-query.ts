/** Reads a query document: its YAML, its schema and its meaning. */
import { remembering } from '../shapes/remember.ts'
import { refused, success, type Outcome } from '../shapes/outcome.ts'
import { Query } from '../shapes/schemas.ts'
import { readYaml } from '../shapes/yaml.ts'
import { readMeaning, type QueryMeaning } from './meaning.ts'

/** The length of all documents whose meanings are remembered, in characters. */
const REMEMBERED = 2_000_000
const remembered = remembering(
  (_, file: string, text: string): Outcome<QueryMeaning> => meaningOf(file, text),
  REMEMBERED,
)

/** Returns the meaning of a query document, or every problem with its place. */
export const readQuery = (file: string, text: string): Outcome<QueryMeaning> =>
  remembered(`${file}\0${text}`, file, text)

function meaningOf(file: string, text: string): Outcome<QueryMeaning> {
  const read = readYaml(file, text, Query)
  if (!read.ok) return read
  const result = readMeaning(read.value)
  if (result.ok) return success(result.meaning)
  return refused(
    ...result.problems.map(({ path, ...worded }) => ({
      file,
      path: `/${path.join('/')}`,
      ...read.placeOf(path),
      ...worded,
    })),
  )
}
