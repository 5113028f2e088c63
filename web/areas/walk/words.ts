/** The texts of the Walk area. */
import { plural } from '../../shared/words/format.ts'

const fragments = (count: number) => plural(count, 'fragment')

export const words = {
  title: 'Walk',

  address: {
    label: 'Address to walk',
    walk: 'Walk ↵',
    compare: 'Compare with this',
    compareHint: 'Compare later walks with this one (H)',
    comparing: 'Later walks are compared with this one.',
    suggestion: (path: string, document: string | null) =>
      document === null ? path : `${path}, opens ${document}`,
  },

  page: {
    label: 'Page',
    views: 'Views of the page',
    page: 'Page',
    data: 'Data',
    source: 'Source',
    headers: 'Headers',
    changes: 'Changes',
    widths: 'Width in pixels',
    openingSource: 'Opening the source …',
    sourceLabel: 'Source of the page',
    theSource: 'the source',
    theHeaders: 'the headers',
    redirect: (status: number) => `${status}: redirects to`,
    walkTarget: 'Walk the target',
    empty: 'The response has no body.',
    preview: 'Preview',
    previewNote: 'As the author sees it: unpublished posts are shown and marked.',
    frame: (target: string) => `Page at ${target}`,
    facts: (bytes: string, headers: number) => `${bytes} of body, ${plural(headers, 'header')}`,
    comparedWith: (which: string) => `The page compared with ${which}.`,
    unchanged: 'The page has not changed.',
  },

  walkAt: (time: string) => `the walk at ${time}`,
  walkBefore: (path: string) => `the walk before saving ${path}`,

  journey: {
    label: 'Stages of the request',
    result: (status: number, time: string) => `${status} in ${time}`,
    stored: (hits: number, total: number) => `${hits} of ${fragments(total)} cached`,
    queries: (queries: number, rows: number) =>
      `${plural(queries, 'query', 'queries')}, ${plural(rows, 'row')}`,
    as: 'as',
    reader: 'a reader',
    author: 'the author',
    accepts: 'Preferred response',
    html: 'page (HTML)',
    json: 'data (JSON)',
    comparedWith: (which: string) => `Compared with ${which}.`,
    unchanged: 'Nothing has changed.',
    changed: (changes: string) => `Changed: ${changes}.`,
    changedLines: 'Changed lines',
    stopComparing: 'Stop comparing',
    attention: ' (needs attention)',
    changedMark: 'changed',
    failed: 'Failed at this stage.',
  },

  differences: {
    address: (before: string) => `address, before ${before}`,
    route: (now: string | null, before: string | null) =>
      `answered by ${now ?? 'no route'}, before by ${before ?? 'no route'}`,
    pattern: (before: string | null) => `pattern, before ${before ?? 'none'}`,
    newQuery: (name: string) => `${name} is new`,
    goneQuery: (name: string) => `${name} is gone`,
    sentence: (name: string, now: string, before: string) => `${name}: ${now}; before: ${before}`,
    rows: (name: string, now: string, before: string) => `${name}: ${now}, before ${before}`,
    template: (now: string | null, before: string | null) =>
      `rendered by ${now ?? 'no template'}, before by ${before ?? 'no template'}`,
    fragments: (now: string, before: string) => `${now}, before ${before}`,
    status: (now: number, before: number) => `status ${now}, before ${before}`,
    lines: (added: number, removed: number) => `${plural(added, 'line')} added, ${removed} removed`,
  },

  route: {
    title: 'Route',
    none: 'none',
    noMatch: 'No route matches this address.',
    tried: (position: string, total: number) => `${position} of ${total} tried.`,
    didNotMatch: 'did not match:',
    whyNone: 'Why none matched',
    allTried: 'All that were tried',
    fewer: 'Show fewer',
    open: 'Open routes.yaml',
    answered: 'answered',
  },

  parameters: {
    title: 'Parameters',
    none: 'No parameters',
    from: (raw: string) => `from “${raw}”`,
  },

  queries: {
    title: 'Queries',
    none: 'No queries ran',
    open: (document: string) => `Open ${document}`,
    as: (name: string) => `as ${name}`,
    often: (count: number) => `runs ${count} times per page`,
    notRun: 'not run',
    failed: 'failed',
    details: 'SQL and rows',
    walkAsAuthor: 'Walk as the author',
    rowsIn: (rows: number) => `${plural(rows, 'row')} in`,
    theStatement: 'the statement with its values',
    otherValues: 'Run with other values',
    readBy: 'Template lines that read it',
    rows: 'Rows',
    explain: 'Show the query plan',
    explained: 'Walked again and measured.',
  },

  templates: {
    title: 'Templates',
    noneForData: 'None: JSON has all data of the route, with every field that readers may see.',
    none: 'No template was rendered.',
    rounds: (count: number) =>
      `Rendered ${count} times: a fragment had to be rendered, and its data was fetched only then.`,
    open: (document: string) => `Open ${document}`,
    openCaller: (document: string) => `Open ${document}, which renders it`,
    line: (line: number | undefined) => (line === undefined ? 'caller' : `line ${line}`),
    self: 'self',
    selfHint: 'without the templates that it renders',
    in: ' in ',
  },

  fragments: {
    title: 'Fragments',
    none: 'No fragments on this page',
    notReached: 'Not reached: the request failed first.',
    noPage: 'No page was rendered.',
    open: (document: string, line: number) => `Open ${document} at line ${line}`,
    useStored: 'Use stored fragments',
    bypassed: 'rendered, not stored',
    fresh: 'just rendered',
    age: (age: string) => `${age} old`,
    remaining: (left: string, lifetime: string) => `expires in ${left} of ${lifetime}`,
    notStored: (count: number) => `${count} not stored: outdated before the page was finished`,
    details: 'Keys and dependencies',
    key: 'Key',
    dependsOn: 'Depends on',
    size: 'Size',
    noDependencies: 'nothing that changes',
    more: (count: number) => `and ${count} more`,
  },

  response: { title: 'Response' },

  traffic: {
    title: 'Recent requests',
    count: (requests: number, notFound: number) =>
      `${plural(requests, 'request')}${notFound > 0 ? `, ${notFound} not found` : ''}`,
    empty: 'No requests yet. Open the blog in another tab, and its requests appear here.',
    waiting: (count: number) => `${count} new`,
    pause: 'Pause',
    resume: 'Resume',
    walk: (target: string) => `Walk ${target}`,
    notWalked: (method: string) => `${method} requests are not walked, because they change data.`,
    noRoute: 'no route',
    json: 'JSON',
    stored: (hits: number, total: number) => `${hits}/${total} cached`,
  },
} as const
