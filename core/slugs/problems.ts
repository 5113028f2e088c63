/** The problems of slugs. */
import { catalogue, wording } from '../shapes/catalogue.ts'

export const SLUG_PROBLEMS = catalogue({
  'slug-empty': wording(() => ({ message: 'The slug is empty.' })),
  'slug-character': wording(
    (character: string) => ({
      message: `A slug must not contain ${character}.`,
      hint: 'Use lower-case letters a–z, digits and hyphens.',
    }),
    '“é”',
  ),
  'slug-hyphens': wording(() => ({
    message: 'A slug may only have single hyphens between letters and digits.',
  })),
  'slug-too-long': wording(
    (length: number, limit: number) => ({
      message: `The slug has ${length} characters; the maximum is ${limit}.`,
    }),
    94,
    80,
  ),
  'slug-reserved': wording(
    (slug: string) => ({
      message: `The slug “${slug}” is reserved.`,
      hint: 'Choose another, or remove it from “slugs: reserved” in blog.yaml.',
    }),
    'new',
  ),
  'slug-not-derivable': wording(
    (what: string) => ({ message: `No slug can be derived from this ${what}.`, hint: 'Enter a slug.' }),
    'title',
  ),
})
