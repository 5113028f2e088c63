/** The texts of the Cache area. */
import type { CopyItem } from '../../../contract/cache.ts'
import { plural } from '../../shared/words/format.ts'

const copies = (count: number) => plural(count, 'copy', 'copies')

export const words = {
  title: 'Stored copies',
  count: (pages: number, fragments: number, bytes: string) =>
    `${plural(pages, 'page')} and ${plural(fragments, 'fragment')}, ${bytes} in this process`,
  clear: 'Clear cache',
  cleared: (count: number) => `${copies(count)} dropped. The next requests render them again.`,
  empty: 'No copies are stored. Open a page of the blog.',
  columns: {
    kind: 'Kind',
    name: 'Name',
    key: 'Key',
    dependsOn: 'Depends on',
    age: 'Age',
    remaining: 'Expires in',
    size: 'Size',
  },
  kinds: { page: 'page', fragment: 'fragment' } satisfies Record<CopyItem['kind'], string>,
  noDependencies: 'nothing that changes',
} as const
