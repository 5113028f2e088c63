/** Finds actions to which one address can send any number of comments. */
import { withCommentRules } from '../../comments/edit-rules.ts'
import { replaceRoute } from '../../blog/edit.ts'
import { formsClaim } from '../comments.ts'
import type { Facts } from '../facts.ts'
import type { Fix } from '../finding.ts'
import { fixRoutes, routeOf, saveFix, witness, type Rule } from '../rule.ts'

/** What the fixed rules allow. */
const RATE = { 'per-address': 5, 'per-post': 60, within: '10m' }

export const noRateLimit: Rule = {
  id: 'no-rate-limit',
  area: 'comments',
  meaning: 'One address can add any number of comments within a minute.',
  why: 'A program fills the blog, and the queue of its author, in seconds.',
  async run(facts) {
    const probes = await facts.comments()
    const findings = probes.flatMap(({ action, page, actionPath, rate }) =>
      rate.accepted < rate.tried
        ? []
        : [
            {
              subject: action,
              title: `One reader can send ${rate.tried} comments in a row to “${action}”`,
              detail: `All of ${rate.tried} comments that were sent to ${actionPath} from one address at once were accepted, and then rolled back.`,
              affects: 'now' as const,
              witness: witness(
                page,
                `The ${rate.tried}th comment of one address within a second`,
                '303',
                '429',
              ),
              cause: 'The comment rules do not limit the rate, or allow more than anyone writes.',
              place: { document: 'blog.yaml', line: null },
              others: [],
              fixes: fixesOf(facts, action),
            },
          ],
    )
    return { findings, claim: formsClaim('The number of comments from one address is limited', probes) }
  },
}

function fixesOf(facts: Facts, action: string): Fix[] {
  const label = 'Allow 5 comments per address in 10 minutes'
  const after = 'Further comments are answered with 429 and the time to wait.'
  const route = routeOf(facts, action)?.route
  if (route?.comments?.rate) {
    const { rate: _, ...rules } = route.comments
    return fixRoutes(facts, label, after, (text) =>
      replaceRoute(text, action, (declared) => ({ ...declared, comments: { ...rules, rate: RATE } })),
    )
  }
  const { comments = {} } = facts.definition.settings
  return saveFix(
    'blog.yaml',
    withCommentRules(facts.documents.get('blog.yaml') ?? '', { ...comments, rate: RATE }),
    label,
    after,
  )
}
