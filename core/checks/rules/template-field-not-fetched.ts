/** Finds fields in templates that queries do not fetch. */
import { fetchAlso } from '../../blog/edit-query.ts'
import { queryPath } from '../../shapes/documents.ts'
import { saveFix } from '../rule.ts'
import { templateRule } from '../template-rule.ts'

export const templateFieldNotFetched = templateRule({
  id: 'template-field-not-fetched',
  meaning: 'A template reads a field that the query of the page does not fetch.',
  why: 'The field is empty on this page although the row has a value.',
  kinds: ['field-not-fetched'],
  claim: 'Queries fetch every field that a template is known to read',
  title: ({ template, subject }) => `${template} reads “${subject}”, which is not fetched`,
  actual: () => 'nothing',
  expected: () => 'the value of the row',
  cause: ({ hint }) => `The query does not fetch it. ${hint}`,
  causeOf: ({ template, subject, fetch }) =>
    fetch ? `${fetch.query} ${fetch.name}` : `${template} ${subject}`,
  fixElsewhere({ documents }, { fetch }) {
    if (!fetch) return []
    const document = queryPath(fetch.query)
    const text = documents.get(document)
    return saveFix(
      document,
      text === undefined ? undefined : fetchAlso(text, fetch.name),
      `Fetch “${fetch.name}” in query “${fetch.query}”`,
      `The query fetches “${fetch.name}”.`,
    )
  },
})
