/** Finds links to the sites of comment writers that search engines count as recommendations. */
import { formsClaim } from '../comments.ts'
import { placeInTemplates } from '../page-place.ts'
import { witness, type Rule } from '../rule.ts'

export const commentLinkFollowed: Rule = {
  id: 'comment-link-followed',
  area: 'comments',
  meaning: 'The link to the site of a comment’s writer has neither rel="nofollow" nor rel="ugc".',
  why: 'Such links attract spam, because search engines count them as recommendations of the blog.',
  async run(facts) {
    const probes = (await facts.comments()).filter((one) => one.siteRel !== null)
    const findings = probes
      .filter(({ siteRel }) => siteRel !== null && !/\b(nofollow|ugc)\b/i.test(siteRel))
      .map(({ action, page, then, siteRel }) => ({
        subject: action,
        title: 'Links to the sites of comment writers have neither “nofollow” nor “ugc”',
        detail: `${page} links to the site of a comment’s writer ${siteRel === '' ? 'without “rel”' : `with rel="${siteRel ?? ''}"`}.`,
        affects: 'now' as const,
        witness: witness(
          page,
          'The link to the site of a comment’s writer',
          `rel="${siteRel ?? ''}"`,
          'rel="ugc nofollow"',
        ),
        cause: 'Add rel="ugc nofollow" to the link.',
        place: placeInTemplates(facts, then, /href="\{\{\s*comment\.site/),
        others: [],
        fixes: [],
      }))
    return {
      findings,
      claim: formsClaim('Links to the sites of comment writers have “nofollow” or “ugc”', probes),
    }
  },
}
