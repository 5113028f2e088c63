/** Finds elements with an attribute that HTML does not know, or without the one that they need. */
import { groupBy } from '../group-by.ts'
import { templateAttributeFaults } from '../html-attributes.ts'
import { literally, pageOfTemplate } from '../page-place.ts'
import { lineAt, placeText, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

export const attributeWrong: Rule = {
  id: 'attribute-wrong',
  area: 'templates',
  meaning:
    'A template has an attribute or a link type that HTML does not know, a link without an address, an image without an alternative text, a label without a field, or a <meta> without content.',
  why: 'Browsers ignore it without a message: a class is not applied, or a link leads nowhere.',
  async run(facts) {
    const templates = [...facts.documents].filter(([path]) => path.startsWith('templates/'))
    const findings: RuleFinding[] = []
    for (const [document, text] of templates)
      // A fault that is copied from line to line is one finding.
      for (const same of groupBy(templateAttributeFaults(text), (one) => one.markup).values()) {
        const [first, ...others] = same
        if (!first) continue
        const { attribute, markup, message, meant } = first
        const placeAt = (at: number) => placeText(document, lineAt(text, at))
        const written = attribute === 'rel' ? (/rel="([^"]*)"/.exec(markup)?.[1] ?? '') : attribute
        const corrected = meant === null ? undefined : replacedAt(text, same, written, meant)
        findings.push({
          subject: `${document} ${markup}`,
          title: `${document}: ${message.replace(/\.$/, '')}`,
          detail: `The tag is ${markup}${meant === null ? '.' : `. Did you mean “${meant}”?`}`,
          affects: 'now',
          witness: witness(await pageOfTemplate(facts, document), message, markup, meant),
          cause: 'It was mistyped or forgotten, or belongs to another element.',
          place: { document, line: lineAt(text, first.at) },
          others: others.map((one) => placeAt(one.at)),
          fixes: saveFix(
            document,
            corrected,
            `Replace “${written}” with “${meant ?? ''}”`,
            'Browsers know the attribute.',
          ),
        })
      }
    return {
      findings,
      claim: {
        sentence:
          'The tags that are written out in templates have attributes that HTML knows, and those that they need',
        tested: templates.length,
        things: ['template', 'templates'],
      },
    }
  },
}

/** Replaces a word in the tags at some offsets; undefined if a tag does not have it. */
function replacedAt(
  text: string,
  tags: readonly { at: number }[],
  written: string,
  meant: string,
): string | undefined {
  const word = new RegExp(`(?<![\\w-])${literally(written).source}(?![\\w-])`)
  const parts: string[] = []
  let end = 0
  for (const { at } of tags) {
    const close = text.indexOf('>', at) + 1
    const tag = text.slice(at, close)
    if (close === 0 || !word.test(tag)) return undefined
    parts.push(
      text.slice(end, at),
      tag.replace(word, () => meant),
    )
    end = close
  }
  return parts.join('') + text.slice(end)
}
