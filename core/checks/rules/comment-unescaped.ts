/** Finds pages to whose markup a comment can add. */
import type { CommentedPage } from '../comment-facts.ts'
import { pagesClaim } from '../comments.ts'
import type { Facts } from '../facts.ts'
import type { Fix } from '../finding.ts'
import { groupBy } from '../group-by.ts'
import { lineOf, placeText, saveFix, witness, type Rule } from '../rule.ts'

export const commentUnescaped: Rule = {
  id: 'comment-unescaped',
  area: 'comments',
  meaning: 'The name, the site or the text of a comment becomes markup of the page.',
  why: 'Readers can change the page for others, and with an attribute such as onclick run scripts in it.',
  async run(facts) {
    const probes = await facts.comments()
    const injected = probes.flatMap(({ pages }) => pages.filter((page) => page.injected !== null))
    const suspects = outputsOfComments(facts)
    const findings = [...groupBy(injected, ({ injected: tag }: CommentedPage) => tag ?? '')].flatMap(
      ([tag, [first, ...others]]) => {
        if (!first) return []
        const own = suspects.filter(({ how }) => (how === 'without quotes') === tag.includes(' zqattr'))
        const place = own.find((one) => /\b(name|site|text|html|comment)\b/.test(one.before)) ?? own[0]
        return [
          {
            subject: tag,
            title: `A comment adds markup to ${first.path}`,
            detail: `A comment whose name, site and text try to add an attribute makes the page have ${tag}.`,
            affects: 'now' as const,
            witness: witness(
              first.path,
              'A comment with quotes and tags in its name, site and text',
              tag,
              'text',
            ),
            cause: place
              ? `${placeText(place.document, place.line)} prints a value of comments ${place.how}.`
              : 'A template prints a value of comments in a place where it is not only text.',
            place: place ? { document: place.document, line: place.line } : null,
            others: [...new Set(others.map((one) => one.path))],
            fixes: fixesOf(facts, own),
          },
        ]
      },
    )
    return { findings, claim: pagesClaim('A hostile comment adds no markup to any requested page', probes) }
  },
}

interface Suspect {
  document: string
  line: number | null
  how: string
  before: string
  after: string
}

/** An output without quotes as the value of an attribute. */
const UNQUOTED = /(\s[\w-]+=)(\{\{-?[^}]*\}\}[^\s"'>]*)/g
/** An output that is not escaped. */
const RAW = /(\{\{-?[^}|]*(?:\|[^}|]*)*?)\|\s*raw\s*(-?\}\})/g

/** Returns outputs of templates that may become markup. */
function outputsOfComments({ documents }: Facts): Suspect[] {
  const found: Suspect[] = []
  for (const [document, text] of documents) {
    if (!document.startsWith('templates/')) continue
    for (const [before, name = '', value = ''] of text.matchAll(UNQUOTED))
      found.push({
        document,
        line: lineOf(text, before),
        how: 'without quotes',
        before,
        after: `${name}"${value}"`,
      })
    for (const [before, start = '', end = ''] of text.matchAll(RAW))
      found.push({ document, line: lineOf(text, before), how: 'unescaped', before, after: `${start}${end}` })
  }
  return found
}

/** One fix that mends all of these outputs of a template. It is offered only if it helps. */
function fixesOf({ documents }: Facts, suspects: readonly Suspect[]): Fix[] {
  return [...groupBy(suspects, (one) => one.document)].flatMap(([document, own]) => {
    const text = own.reduce(
      (known, { before, after }) => known.replace(before, () => after),
      documents.get(document) ?? '',
    )
    return saveFix(
      document,
      text,
      `Quote and escape the values in ${document}`,
      'Values of comments are only text.',
    )
  })
}
