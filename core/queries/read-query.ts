/** Reads a query document: its YAML, its schema and its meaning. */
import { remembering } from '../shapes/remember.ts'
import { refused, success, type Outcome } from '../shapes/outcome.ts'
import { Query } from '../shapes/schemas.ts'
import { readYaml } from '../shapes/yaml.ts'
import { readMeaning, type Discussion, type QueryMeaning } from './meaning.ts'

/** The length of all documents whose meanings are remembered, in characters. */
const REMEMBERED = 2_000_000
const remembered = remembering(
  (_, file: string, text: string, discussion: Discussion): Outcome<QueryMeaning> =>
    meaningOf(file, text, discussion),
  REMEMBERED,
)

/** Returns the meaning of a query document, or every problem with its place. */
export const readQuery = (
  file: string,
  text: string,
  { order, pageSize }: Discussion,
): Outcome<QueryMeaning> =>
  remembered(`${file}\0${order} ${pageSize}\0${text}`, file, text, { order, pageSize })

function meaningOf(file: string, text: string, discussion: Discussion): Outcome<QueryMeaning> {
  const read = readYaml(file, text, Query)
  if (!read.ok) return read
  const result = readMeaning(read.value, discussion)
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
