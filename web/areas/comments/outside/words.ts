/** The texts of the outside comment service. */
import { plural } from '../../../shared/words/format.ts'

const comments = (count: number) => plural(count, 'comment')

export const words = {
  title: 'Where comments are kept',
  kept: 'Place',
  places: { here: 'In this blog', test: 'Test service that ships', other: 'Outside service' },
  origin: 'Service origin',
  originHelp: 'https://talk.example',
  site: 'Name of the blog there',
  identifier: 'Threads are named by',
  identifiers: { id: 'The id of the post', slug: 'The slug of the post', address: 'The address of the page' },
  changes: 'Changes when the slug or the address does: comments would be split over several threads.',
  elsewhere: 'Readers comment at the service. The other rules apply to comments in this blog only.',
  saveFirst: 'Save to use the service.',
  counts: (here: number, there: number | null) =>
    there === null
      ? `${comments(here)} here.`
      : `${comments(here)} here, ${there.toLocaleString('en-GB')} there.`,
  send: 'Copy all there',
  fetch: 'Copy all here',
  sent: (added: number, known: number) =>
    `${comments(added)} copied to the service${known === 0 ? '' : `; ${known.toLocaleString('en-GB')} were there already`}.`,
  fetched: (imported: number, known: number, lost: number) =>
    `${comments(imported)} copied from the service${known === 0 ? '' : `; ${known.toLocaleString('en-GB')} were here already`}${lost === 0 ? '' : `; ${lost.toLocaleString('en-GB')} belong to no post`}.`,
}
