/** Finds blocks that no layout prints. */
import { templateRule } from '../template-rule.ts'

export const templateBlockUnknown = templateRule({
  id: 'template-block-unknown',
  meaning: 'A page fills a block that its layout does not have.',
  why: 'What is in the block is missing on the page.',
  kinds: ['block-unknown'],
  claim: 'Every block is printed by a layout',
  title: ({ template, subject }) => `${template} fills block “${subject}”, which no layout has`,
  actual: () => 'nothing of the block',
  expected: () => 'the block',
  cause: ({ message }) => message,
  mend: (line, { subject, meant }) =>
    meant === null ? undefined : line.replace(new RegExp(`block ${subject}\\b`), () => `block ${meant}`),
})
