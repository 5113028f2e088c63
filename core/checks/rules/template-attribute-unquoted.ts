/** Finds values in attributes without quotes. */
import { templateRule } from '../template-rule.ts'

export const templateAttributeUnquoted = templateRule({
  id: 'template-attribute-unquoted',
  meaning: 'A template prints a value into an attribute without quotes.',
  why: 'A space in the value ends the attribute, and what follows becomes attributes of their own, also handlers of events.',
  kinds: ['attribute-unquoted'],
  claim: 'No text is known to be printed into an attribute without quotes',
  title: ({ template, subject }) => `${template} prints “${subject}” into an attribute without quotes`,
  actual: () => 'no quotes',
  expected: () => 'quotes',
  cause: ({ message }) => message,
  fix: {
    replace: (text, { subject }) =>
      text.startsWith(`{{ ${subject} }}`)
        ? text.replace(`{{ ${subject} }}`, `"{{ ${subject} }}"`)
        : undefined,
    label: () => 'Add quotes',
    after: () => 'The value is in quotes.',
  },
})
