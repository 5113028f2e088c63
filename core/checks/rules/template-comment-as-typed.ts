/** Finds comments that are shown as they were typed, without their paragraphs and links. */
import { templateRule } from '../template-rule.ts'

const htmlOf = (subject: string) => subject.replace(/[^.]*$/, 'html')

export const templateCommentAsTyped = templateRule({
  id: 'template-comment-as-typed',
  meaning: 'A template prints the text of a comment as it was typed.',
  why: 'Its paragraphs run together, and its links cannot be followed.',
  kinds: ['comment-as-typed'],
  claim: 'No template is known to show a whole comment as it was typed',
  title: ({ template, subject }) => `${template} prints “${subject}” as it was typed`,
  actual: ({ subject }) => `{{ ${subject} }}`,
  expected: ({ subject }) => `{{ ${htmlOf(subject)} }}`,
  cause: ({ message, hint }) => `${message} ${hint}`,
  fix: {
    replace: (text, { subject }) =>
      text.startsWith(`{{ ${subject} }}`)
        ? text.replace(`{{ ${subject} }}`, () => `{{ ${htmlOf(subject)} }}`)
        : undefined,
    label: ({ subject }) => `Print “${htmlOf(subject)}”`,
    after: () => 'Comments are shown with their paragraphs and links.',
  },
})
