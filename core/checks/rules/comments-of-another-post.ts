/** Finds pages of a post that show the comments of others as its own. */
import { parse } from 'yaml'
import { changeQuery } from '../../blog/edit-query.ts'
import { queryPath } from '../../shapes/documents.ts'
import { pagesClaim } from '../comments.ts'
import { routeOf, saveFix, witness, type Rule } from '../rule.ts'

/** The number of conditions as they are written. */
function conditionsIn(text: string): number {
  const { where } = parse(text) as { where?: unknown[] }
  return where?.length ?? 0
}

export const commentsOfAnotherPost: Rule = {
  id: 'comments-of-another-post',
  area: 'comments',
  meaning: 'The page of a post lists comments on another post.',
  why: 'Readers see replies to something else, and the number of comments is wrong.',
  async run(facts) {
    const probes = await facts.comments()
    const findings = probes.flatMap(({ pages, then, page }) => {
      const found = pages.filter((one) => one.hasForeign)
      const [first] = found
      const query = found.flatMap((one) => one.foreignBy)[0]
      if (!first) return []
      const document = query === undefined ? undefined : queryPath(query)
      const [parameter] = Object.keys(routeOf(facts, then)?.route.params ?? {})
      const text = document === undefined ? undefined : facts.documents.get(document)
      return [
        {
          subject: query ?? page,
          title: `${first.path} shows comments on another post`,
          detail: 'A comment that was added to another post is listed among those of this one.',
          affects: 'now' as const,
          witness: witness(
            first.path,
            'It has the anchor of a comment on another post',
            'comments of two posts',
            'comments of one post',
          ),
          cause:
            query === undefined
              ? 'The template lists them.'
              : `Query “${query}” does not select the comments of the post.`,
          place: document === undefined ? null : { document, line: null },
          others: found.slice(1).map((one) => one.path),
          fixes:
            document === undefined || text === undefined || parameter === undefined
              ? []
              : saveFix(
                  document,
                  changeQuery(text, ['where', conditionsIn(text)], {
                    field: 'post.slug',
                    is: 'equal',
                    to: `:${parameter}`,
                  }),
                  'Select the comments of the post',
                  `The query returns the comments of the post whose slug is “:${parameter}”.`,
                ),
        },
      ]
    })
    return { findings, claim: pagesClaim('The page of a post lists no comment on another one', probes) }
  },
}
