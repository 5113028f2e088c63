/** Finds blocks that no layout has. */
import { templateRule } from '../template-rule.ts'

export const templateBlockUnknown = templateRule({
  id: 'template-block-unknown',
  meaning: 'A page fills a block that its layout does not have.',
  why: 'The content of the block is missing on the page.',
  kinds: ['block-unknown'],
  claim: 'Layouts have every block that pages fill',
  title: ({ template, subject }) => `${template} fills the unknown block “${subject}”`,
  actual: () => 'no block',
  expected: () => 'the block',
  cause: ({ message }) => message,
  fix: {
    replace: (text, { subject, meant }) =>
      meant === null
        ? undefined
        : text.replace(/^(\{%-?\s*block\s+)(\w+)/, (whole, tag: string, name: string) =>
            name === subject ? tag + meant : whole,
          ),
    label: ({ meant }) => `Fill block “${meant ?? ''}”`,
    after: ({ meant }) => `The page fills block “${meant ?? ''}”.`,
  },
})
