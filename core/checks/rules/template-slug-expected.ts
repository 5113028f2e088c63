/** Finds names and titles in templates from which addresses are built instead of from slugs. */
import { templateRule } from '../template-rule.ts'

export const templateSlugExpected = templateRule({
  id: 'template-slug-expected',
  meaning: 'A template builds an address from a name or a title, and the route expects the slug.',
  why: 'It fails for names with spaces or capitals, and leads nowhere if the slug differs from the name.',
  kinds: ['slug-expected'],
  claim: 'No template is known to build an address from a name instead of a slug',
  title: ({ template, subject }) => `${template} builds an address from “${subject}”`,
  actual: ({ subject }) => subject,
  expected: ({ subject }) => subject.replace(/[^.]*$/, 'slug'),
  cause: ({ message, hint }) => `${message} ${hint}`,
  fix: {
    replace: (text, { subject }) =>
      text.startsWith(subject) ? subject.replace(/[^.]*$/, 'slug') + text.slice(subject.length) : undefined,
    label: ({ subject }) => `Use “${subject.replace(/[^.]*$/, 'slug')}”`,
    after: ({ subject }) => `The address is built from “${subject.replace(/[^.]*$/, 'slug')}”.`,
  },
})
