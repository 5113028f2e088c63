/** Finds Markdown in posts and pages that readers see as it was typed, or that swallows the rest of a text. */
import type { TypedMarkdown } from '../facts.ts'
import { counted, witness, type Rule } from '../rule.ts'

const SAID: Record<TypedMarkdown['kind'], { what: string; cause: string }> = {
  'fence-open': {
    what: 'has a block of code that is not closed',
    cause: 'Everything after it is code. End the block with the same signs on a line of their own.',
  },
  'link-typed': {
    what: 'has a link that readers see as it was typed',
    cause:
      'There is a space before the address, the address is not one that texts may link to, or a footnote is missing.',
  },
  'emphasis-typed': {
    what: 'has emphasis that is not closed',
    cause: 'Readers see the asterisks. Close it with as many.',
  },
  'template-typed': {
    what: 'has a tag or an output of templates, which texts do not have',
    cause: 'Readers see it as it was typed. Put it in backquotes if it is an example.',
  },
  'block-typed': {
    what: 'has a heading, a list or a table that readers see as it was typed',
    cause: 'A space after the sign is missing, or the second row of the table has fewer columns.',
  },
  'image-unnamed': {
    what: 'has an image without alternative text',
    cause: 'Screen readers say nothing, or the name of the file. Write what it shows: ![A saddle](…).',
  },
  'text-empty': { what: 'has no text', cause: 'Readers get a title and nothing else.' },
}

export const markdownAsTyped: Rule = {
  id: 'markdown-as-typed',
  area: 'content',
  meaning:
    'The Markdown of a post or page has a link, emphasis or a block of code that is not closed, an image without alternative text, or no text at all.',
  why: 'Readers see signs in place of a link, or code in place of the rest of the text.',
  async run(facts) {
    const { typed, tested, of } = await facts.typedMarkdown()
    return {
      findings: typed.map(({ document, title, path, isPublic, kind, line, typed: written }) => ({
        subject: `${document} ${kind} ${written}`,
        title: `“${title}” ${SAID[kind].what}`,
        detail: written === '' ? '' : `In line ${line} of the text: ${written}`,
        affects: isPublic ? ('now' as const) : ('possibly' as const),
        witness: witness(path, written === '' ? 'The text is empty' : `The text contains ${written}`),
        cause: SAID[kind].cause,
        place: { document, line: null },
        others: [],
        fixes: [],
      })),
      claim: {
        sentence: 'No link, emphasis, block or image of a post or page is known to be left as it was typed',
        ofSample:
          'No link, emphasis, block or image is known to be left as it was typed in the posts and pages that were read',
        ...{ tested, of },
        things: ['text with marks', 'texts with marks'],
        chosen: `the ${counted(tested, 'text', 'texts')} changed last`,
      },
    }
  },
}
