/** The texts of the Cache area. */
import type { ChangeColumn, Cell } from '../../../core/caching/matrix.ts'
import type { RefreshMode } from '../../../core/shapes/cache-rules.ts'
import type { CopyItem, RehearsedChange, RuleItem } from '../../../contract/cache.ts'
import { plural } from '../../shared/words/format.ts'

const copies = (count: number) => plural(count, 'copy', 'copies')
const processes = (count: number) => (count === 1 ? 'in this process' : `in ${count} processes`)

export const words = {
  kinds: { page: 'page', fragment: 'fragment' } satisfies Record<CopyItem['kind'], string>,
  rules: {
    title: 'Pages and fragments',
    lastHour: (hits: number, all: number) =>
      all === 0
        ? 'no requests in the last hour'
        : `last hour: ${hits.toLocaleString('en-GB')} of ${all.toLocaleString('en-GB')} pages answered from copies`,
    columns: {
      name: 'Name',
      oneCopyFor: 'One copy for each',
      lifetime: 'Kept for',
      refreshed: 'Refreshed when',
      share: 'From copies',
      copies: 'Copies',
      saves: 'Saves',
    },
    onlyOne: '—',
    untilChange: '—',
    onChange: 'on change',
    byAge: 'by age only',
    byAgeHelp: (longest: string) => `A change is seen after ${longest} at most.`,
    both: 'on change, or by age',
    notKept: (why: string) => `Not kept: ${why}.`,
    noRequests: 'no requests',
    share: (percent: number) => `${percent} %`,
    stale: (time: string) => `${time} longer while a new copy is rendered`,
    edit: (name: string) => `Change the rule of ${name}`,
  },
  rule: {
    title: (name: string, kind: RuleItem['kind']) =>
      `${kind === 'page' ? 'Pages of route' : 'Fragment'} ${name}`,
    refresh: 'Refresh',
    modes: {
      'on-change': 'on change',
      both: 'on change, and by age',
      'by-age': 'by age only',
    } satisfies Record<RefreshMode, string>,
    lifetime: 'Lifetime',
    inTag: 'The lifetime is in the tag of the fragment.',
    whileRevalidate: 'Old copy while a new one is rendered',
    ifError: 'Old copy if rendering fails',
    none: 'never',
    help: {
      'on-change': 'A copy is used until something that it shows changes. Readers never see what was before.',
      both: 'A copy is used until something that it shows changes, and for its lifetime at most.',
      'by-age':
        'A copy is used for its lifetime, whatever changes: also after a post was unpublished, or a comment deleted.',
    } satisfies Record<RefreshMode, string>,
    save: 'Save',
    cancel: 'Cancel',
    saved: (name: string) => `The rule of “${name}” is saved.`,
    openTag: 'Open the template',
  },
  matrix: {
    title: 'What refreshes what',
    legend: 'Computed from what the copies show, not declared.',
    columns: {
      'post-text': 'post text',
      'post-slug': 'post slug',
      published: 'published',
      category: 'category of post',
      'category-name': 'category name',
      tag: 'tag name',
      author: 'author name',
      comment: 'comment',
      'page-tree': 'page tree',
      time: 'time passes',
    } satisfies Record<ChangeColumn, string>,
    cells: {
      refreshed: 'shown, and refreshed',
      gap: 'shown, but refreshed by age only',
      part: 'shown; a fragment in it is refreshed by age only',
      none: 'not shown',
    } satisfies Record<Cell, string>,
    gaps: (count: number) => plural(count, 'gap'),
    timeHelp: '“Time passes”: a scheduled post becomes due, or a printed age changes.',
    definition: 'A change of the definition refreshes everything that uses it.',
    empty: 'No page could be rendered.',
    pending: 'Rendering sample pages of each route …',
  },
  copies: {
    title: 'Copies',
    count: (pages: number, fragments: number, bytes: string, limit: string, inProcesses: number) =>
      `${plural(pages, 'page')} and ${plural(fragments, 'fragment')}, ${bytes} of ${limit} ${processes(inProcesses)}`,
    shared: ({ isAvailable, taken, put }: { isAvailable: boolean; taken: number; put: number }) =>
      isAvailable
        ? `; in Redis: ${plural(put, 'page')} shared, ${taken.toLocaleString('en-GB')} taken`
        : '; Redis is not available',
    clear: 'Clear cache',
    cleared: (count: number) => `${copies(count)} dropped. The next requests render them again.`,
    empty: 'No copies are stored. Open a page of the blog.',
    drop: 'Drop',
    dropped: (count: number) => (count === 0 ? 'It was dropped already.' : 'The copy is dropped.'),
    key: 'Key',
    gone: 'The copy was dropped in the meantime.',
    walk: 'Walk',
    columns: {
      details: 'Details',
      kind: 'Kind',
      name: 'Name',
      what: 'For',
      dependsOn: 'Depends on',
      age: 'Age',
      remaining: 'Expires in',
      uses: 'Uses',
      size: 'Size',
    },
    noDependencies: 'nothing that changes',
    byAge: (what: string) => `by age only: ${what}`,
  },
  whatIf: { title: 'What if' },
  edge: {
    title: 'Edge cache',
    pending: 'Loading …',
    keep: 'Store pages',
    off: 'Off',
    atMost: (time: string) => `For up to ${time}`,
    builtIn: 'The built-in edge cache stands in for a content delivery network.',
    other: 'Purge requests are sent to EDGE_PURGE_URL.',
    help: 'Stored pages are served without a request to the blog. A change purges them before it counts as saved. If a purge fails, pages can be stale for up to this time. Pages with a form are never stored.',
    helpOff: 'Off: every page is requested from the blog. Choose a time to store pages; changes purge them.',
    saved: (time: string | undefined) =>
      time === undefined ? 'The edge cache is off.' : `The edge cache stores pages for up to ${time}.`,
    clear: 'Purge all',
    cleared: 'The edge cache was purged.',
    notCleared: 'The purge has failed. It will be retried.',
    state: 'Purges',
    current: 'up to date',
    behind: (since: string) => `failing since ${since}`,
    last: 'Last purge',
    purge: (at: string, calls: number) => `${at} (${plural(calls, 'purge')} since the start):`,
    everything: 'everything',
    counts: (hits: number, revalidated: number, fetched: number) =>
      `${plural(hits, 'request')} served from the edge cache, ${revalidated.toLocaleString('en-GB')} revalidated, ${fetched.toLocaleString('en-GB')} served by the blog.`,
    listed: (shown: number, total: number) =>
      `The ${shown.toLocaleString('en-GB')} most recently used of ${plural(total, 'stored response')}:`,
    open: 'Open the blog through the edge cache',
    empty: 'No pages are stored. Open a page through the edge cache.',
    noGroups: 'no groups: stored for its lifetime, whatever changes',
    plain: 'none',
    columns: {
      address: 'Address',
      type: 'Type',
      encoding: 'Encoding',
      groups: 'Groups',
      uses: 'Uses',
      remaining: 'Expires in',
      size: 'Size',
    },
  },
  rehearse: {
    title: 'Rehearse a change',
    nothingSaved: 'nothing is saved',
    kinds: {
      title: 'the title of a post changes',
      slug: 'the slug of a post changes',
      publish: 'a post is published',
      unpublish: 'a post is unpublished',
      category: 'a post moves to a category',
      comment: 'a comment is shown',
      rename: 'a category is renamed',
      'move-page': 'a page moves',
      time: 'time passes',
      template: 'a template changes',
      setting: 'the title of the blog changes',
    } satisfies Record<RehearsedChange['kind'], string>,
    if: 'If',
    post: 'Post',
    category: 'Category',
    page: 'Page',
    template: 'Template',
    to: 'New value',
    toPlaceholder: 'new value (optional)',
    until: 'Until',
    run: 'Rehearse',
    refreshed: (count: number) => (count === 1 ? 'copy refreshed' : 'copies refreshed'),
    kept: 'kept',
    stale: 'left stale',
    asBefore: (same: number) =>
      same === 1
        ? 'One of those refreshed has the same text again.'
        : `${same} of those refreshed have the same text again.`,
    rendered: (rendered: number, all: number) =>
      rendered === all
        ? `All ${all} addresses of pages were rendered before and after the change.`
        : `${rendered} of ${all} addresses of pages were rendered before and after the change: of each route the newest, the oldest, and some between.`,
    verified: 'All kept copies would be rendered with the same text.',
    faults: (count: number) =>
      `${copies(count)} kept that would be rendered differently. This is a bug in Esquina:`,
    longest: (time: string) => `Readers see the old text for up to ${time}`,
    at: (addresses: readonly string[], more: number) =>
      `at ${addresses.join(', ')}${more > 0 ? ` and ${more} more` : ''}.`,
    refreshOnChange: 'Refresh it on change',
    list: 'Refreshed',
    same: 'same text',
    statuses: 'Other answers',
    status: (before: number, after: number) => `${before} becomes ${after}`,
    help: 'Choose a change to see which copies it refreshes, and which it leaves stale.',
    saved: (name: string) => `“${name}” is refreshed on change.`,
  },
  audit: {
    title: 'Audit',
    help: 'Renders the stored pages again, and compares.',
    start: 'Compare all copies',
    cancel: 'Cancel',
    running: (done: number, of: number) => `${done} of ${plural(of, 'address', 'addresses')}`,
    done: (same: number, compared: number) =>
      same === compared
        ? `${copies(compared)} compared: all of them are up to date.`
        : `${copies(compared)} compared: ${same} of them are up to date.`,
    byAge: (count: number) =>
      count === 1
        ? '1 copy differs. It shows something that is refreshed by age only.'
        : `${copies(count)} differ. They show something that is refreshed by age only.`,
    notCompared: (count: number) =>
      `${copies(count)} not compared: data as JSON, fragments of pages that are not stored, and what changed in the meantime.`,
    different: (count: number) => `${copies(count)} outdated. This is a bug in Esquina:`,
    none: 'No copies could be compared.',
  },
} as const
