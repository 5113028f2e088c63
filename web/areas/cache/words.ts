/** The texts of the Cache area. */
import { plural } from '../../shared/words/format.ts'

const fragments = (count: number) => plural(count, 'fragment')

export const words = {
  title: 'Stored fragments',
  count: (count: number, bytes: string) => `${fragments(count)}, ${bytes} in this process`,
  clear: 'Clear cache',
  cleared: (count: number) => `${fragments(count)} dropped. The next requests render them again.`,
  empty: 'No fragments are stored. Open a page of the blog that has one.',
  columns: {
    name: 'Fragment',
    key: 'Key',
    dependsOn: 'Depends on',
    age: 'Age',
    remaining: 'Expires in',
    size: 'Size',
  },
  noDependencies: 'nothing that changes',
} as const
