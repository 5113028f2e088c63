/** The texts of the form part for an outside comment service. */
import { plural } from '../../../shared/words/format.ts'

const comments = (count: number) => plural(count, 'comment')

export const words = {
  title: 'Storage',
  kept: 'Stored in',
  places: { here: 'This blog', test: 'Built-in test service', other: 'Outside service' },
  origin: 'Service origin',
  originHelp: 'https://talk.example',
  site: 'Site name',
  identifier: 'Thread identifier',
  identifiers: { id: 'Post ID', slug: 'Post slug', address: 'Page address' },
  changes: 'A new slug or another form of the address would start a new thread.',
  elsewhere: 'Pages embed the service. The other rules apply only to comments stored in this blog.',
  saveFirst: 'Save to connect to the service.',
  counts: (here: number, there: number | null) =>
    there === null
      ? `${comments(here)} in this blog.`
      : `${comments(here)} in this blog, ${there.toLocaleString('en-GB')} at the service.`,
  send: 'Copy all to the service',
  fetch: 'Copy all from the service',
  sent: (added: number, known: number) =>
    `${comments(added)} copied to the service${known === 0 ? '' : `; ${known.toLocaleString('en-GB')} already existed`}.`,
  fetched: (imported: number, known: number, lost: number) =>
    `${comments(imported)} copied from the service${known === 0 ? '' : `; ${known.toLocaleString('en-GB')} already existed`}${lost === 0 ? '' : `; ${lost.toLocaleString('en-GB')} belong to no post`}.`,
}
