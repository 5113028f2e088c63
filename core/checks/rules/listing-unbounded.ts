/** Finds listings that return all rows and grow with every post. */
import { changeQuery } from '../../blog/edit-query.ts'
import type { QueryMeaning } from '../../queries/meaning.ts'
import { SOURCE } from '../../queries/sources.ts'
import { queryPath } from '../../shapes/documents.ts'
import type { Facts } from '../facts.ts'
import { addressUsing, counted, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

/** The number of rows for which the growth is projected. */
const PROJECTED = 100_000
/** The number of rows to which a fix limits the query. */
const FIRST = 50

export const listingUnbounded: Rule = {
  id: 'listing-unbounded',
  area: 'queries',
  meaning: 'A listing returns all posts, or all comments, however many there are.',
  why: 'It is fast while the blog is small. With every post its pages get longer and slower.',
  async run(facts) {
    const listings = [...facts.definition.queries].filter(
      ([, { from, take, countBy }]) =>
        take.kind !== 'one' && countBy.length === 0 && (from === 'posts' || from === 'comments'),
    )
    const { known } = await facts.addresses()
    const findings = []
    let unseen = 0
    for (const [name, meaning] of listings.filter(([, one]) => grows(one))) {
      const path = addressUsing(facts, name, known)
      if (path === undefined) {
        unseen++
        continue
      }
      const { rows, all } = await facts.rowsTaken(name, path)
      findings.push(describe(facts, { name, meaning, path, rows, all }))
    }
    return {
      findings,
      claim: {
        sentence: 'No listing returns all posts or all comments',
        ofSample: 'No listing that a page uses returns all posts or all comments',
        tested: listings.length - unseen,
        of: listings.length,
        things: ['listing', 'listings'],
        chosen: 'those that an address uses',
      },
    }
  },
}

/** Returns true if a query returns more rows the older the blog gets. */
const grows = (meaning: QueryMeaning): boolean => meaning.take.kind === 'all' && !isBounded(meaning)

/** The rows with given ids or slugs, the posts of a year, and the comments of given posts stay few. */
function isBounded({ from, conditions }: QueryMeaning): boolean {
  return conditions.some(({ field, is }) => {
    if (is !== 'equal' && is !== 'in') return false
    if (SOURCE[from].fields[field]?.unique === true) return true
    return from === 'posts' ? field === 'publishedYear' : /^post\.(slug|id)$/.test(field)
  })
}

interface Unbounded {
  name: string
  meaning: QueryMeaning
  path: string
  rows: number
  all: number
}

function describe(facts: Facts, { name, meaning: { from }, path, rows, all }: Unbounded): RuleFinding {
  const projected = all === 0 ? PROJECTED : Math.round((rows / all) * PROJECTED)
  const document = queryPath(name)
  const figure = (value: number) => value.toLocaleString('en-GB')
  return {
    subject: name,
    title: `Query “${name}” returns all rows`,
    detail: `${path} reads ${figure(rows)} of ${figure(all)} ${from} with it. With ${figure(PROJECTED)} ${from} it would read ${figure(projected)}.`,
    affects: 'possibly',
    witness: witness(
      path,
      `The query returns ${counted(rows, 'row')} today`,
      `${figure(projected)} rows of ${figure(PROJECTED)} ${from}`,
      'one page of rows',
    ),
    cause: `The query has “take: all” and no condition that limits the number of ${from}.`,
    place: { document, line: null },
    others: [],
    fixes: saveFix(
      document,
      changeQuery(facts.documents.get(document) ?? '', ['take'], `first ${FIRST}`),
      `Take the first ${FIRST}`,
      `The template gets at most ${FIRST} rows in the same order. To show all rows, use pages instead.`,
    ),
  }
}
