/** The texts of the Routes area. */
import { plural } from '../../shared/words/format.ts'

const addresses = (count: number) => plural(count, 'address', 'addresses')

export const words = {
  title: 'Routes',
  list: 'Routes in order',
  summary: (routes: number, count: number) =>
    `tried from top to bottom · ${plural(routes, 'route')}, ${addresses(count)}`,
  view: 'View',
  views: { plates: 'List', yaml: 'YAML', settings: 'Settings' },
  add: 'Add route',
  empty: 'There are no routes yet, so every address answers 404. Add a route.',
  moved: (route: string) => `Route “${route}” was moved.`,
  addresses: 'Addresses',
  sides: 'Addresses',
  side: { test: 'Test addresses', build: 'Build an address', 'not-found': 'Not found (404s)' },

  row: {
    pattern: 'Pattern',
    data: 'Queries',
    template: 'Template',
    addresses: 'Addresses',
    move: (route: string, place: number) =>
      `Move route ${route}, position ${place}. Press Space and then arrow keys, or Alt and an arrow key.`,
    label: (route: string) => `Route ${route}: `,
    unreachable: 'unreachable',
    overlaps: 'overlaps',
    hasFinding: 'has a finding',
    any: 'any',
    redirect: (status: number, to: string) => `${status} to ${to}`,
    noQuery: 'no query',
    pages: { number: 'numbered pages', cursor: 'pages by cursor' },
    more: (count: number) => `and ${count} more`,
  },

  note: {
    walk: (address: string) => `Walk ${address}`,
    open: 'Show the finding',
    fix: 'Fix…',
    trying: 'Trying the fixes …',
    noneHelps: 'No fix helps. The finding says why.',
  },

  detail: {
    label: (route: string) => `Route ${route}`,
    close: 'Close the route',
    view: 'View of the route',
    addresses: 'Addresses',
    edit: 'Edit',
    deleteTitle: (route: string) => `Delete route “${route}”?`,
    deleteNote: 'You can undo this.',
    deleted: (route: string) => `Route “${route}” was deleted.`,
    loading: 'Loading …',
    isPost: 'This route receives forms. It has no page.',
    redirects: (to: string, status: number) => `Redirects to ${to} with status ${status}.`,
    unlimited:
      'Its addresses cannot be listed, because no query compares its parameters by equality. It answers any value.',
    none: 'It has no addresses yet, because no row matches its parameters.',
    count: (count: number, withPages: number | null) =>
      `${addresses(count)}${withPages === null ? '' : `, ${withPages.toLocaleString('en-GB')} with the pages of its listings`}`,
    walk: (address: string) => `Walk ${address}`,
    changeSlug: 'Change slug',
    movePage: 'Move',
  },

  slug: {
    newSlug: 'New slug',
    newPath: 'New path',
    save: 'Save',
    note: 'The old address will redirect to the new one.',
    free: (address: string) => `${address} is free.`,
    use: (slug: string) => `Use ${slug}`,
    done: (address: string, former: number) =>
      `The address is now ${address}.${former > 0 ? ` ${plural(former, 'former address redirects', 'former addresses redirect')} to it.` : ''}`,
  },

  form: {
    loading: 'Loading …',
    name: 'Name',
    nameTaken: 'Another route has this name.',
    path: 'Path',
    type: 'Type of',
    target: 'Target',
    status: 'Status',
    statuses: {
      301: '301 permanent',
      302: '302 temporary',
      307: '307 temporary, same method',
      308: '308 permanent, same method',
    },
    template: 'Template',
    heading: 'Heading',
    noHeading: 'none',
    json: 'Also answer with JSON',
    data: 'Data for the template',
    dataName: 'Name in the template',
    query: (name: string) => `Query of ${name}`,
    remove: (name: string) => `Remove ${name}`,
    addQuery: 'Add query',
    value: (parameter: string, name: string) => `Value of ${parameter} for ${name}`,
    fromAddress: 'from the address',
    optional: 'optional',
    required: 'route parameter, other data or "text"',
    missing: (parameter: string) => `The query needs a value for “${parameter}”.`,
    reset: 'Reset',
    saved: (route: string) => `Route “${route}” was saved.`,
  },

  draft: {
    title: 'Add a route',
    kinds: 'Kind of route',
    create: 'Create',
    created: (route: string, isRedirect: boolean) =>
      isRedirect
        ? `Route “${route}” was created.`
        : `Route “${route}” was created, with its query and template.`,
    name: 'Name',
    path: 'Path',
    target: 'Target',
    ofPost: 'Route of the post',
    noPost: 'Every route that shows a single post has comments already. Add a single post first.',
    kind: {
      listing: ['Listing', 'all published posts, newest first, in numbered pages'],
      single: ['Single post', 'one published post by its slug, or 404'],
      category: ['Category listing', 'the posts of a category, in numbered pages'],
      page: ['Page tree', 'pages by their path, or the next route'],
      month: ['Month archive', 'the posts of a month, in the blog’s time zone'],
      comments: ['Comments on a post', 'form, list, action and script'],
      redirect: ['Redirect', 'permanently, from an old address to another'],
    },
  },

  test: {
    label: 'Addresses to test, one per line',
    limit: (limit: number, lines: number) => `The first ${limit} of ${lines} lines are tested.`,
    walk: 'Walk this address',
    nearest: 'Most similar:',
    target: 'Target:',
  },

  build: {
    route: 'Route',
    none: 'There are no routes yet.',
    walk: 'Walk',
    theExpression: 'the template expression',
    theAddress: 'the address',
  },

  notFound: {
    loading: 'Loading …',
    empty:
      'No reader has requested an address that does not exist. Such addresses are listed here, without their query strings.',
    label: 'Addresses that were not found',
    times: (count: number) => plural(count, 'time'),
    walk: 'Walk this address',
    nearest: 'Most similar:',
    noNearest: 'No similar address.',
    redirect: 'Redirect to it',
    redirected: (from: string, to: string) => `${from} redirects to ${to} now.`,
    dismiss: 'Dismiss',
  },
} as const
