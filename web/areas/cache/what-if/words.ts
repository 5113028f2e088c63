/** The texts of the simulation. */
export const words = {
  traffic: 'Traffic',
  sources: { zipf: 'By popularity (Zipf)', recent: 'Recent requests of this blog' },
  noRecent: 'There are too few recent requests.',
  recent: (pages: number, perMinute: string) =>
    `${pages} pages, ${perMinute} requests per minute. Only their numbers are used.`,
  pages: 'Pages',
  exponent: 'Zipf exponent',
  exponentHelp: '0: all pages are equally popular. 1: the second page has half of the requests of the first.',
  perMinute: 'Requests per minute',
  edits: 'Edits per hour',
  editsHelp: 'Each edit changes a random page.',
  comments: 'Comments per hour',
  commentsHelp: 'Comments are spread over the pages like requests.',
  settings: ['Setting A', 'Setting B'],
  refresh: 'Refresh',
  lifetime: 'Lifetime in seconds',
  size: 'Room for',
  sizeUnit: '% of the pages',
  figures: {
    hitShare: 'answered from copies',
    renders: 'renders per second',
    load: 'time for rendering',
    staleShare: 'stale answers',
    staleMean: 'stale for, on average',
    staleLongest: 'stale for, at most',
    bytes: 'memory for copies',
  },
  curves: {
    byLifetime: 'Answered from copies, by lifetime',
    bySize: 'Answered from copies, by room',
    stale: 'Stale answers, by lifetime',
    seconds: (value: number) =>
      value >= 3_600
        ? `${Math.round(value / 3_600)} h`
        : value >= 60
          ? `${Math.round(value / 60)} min`
          : `${value} s`,
    copies: (value: number) => `${value} copies`,
  },
  how: (requests: string, render: string, bytes: string) =>
    `Simulated with ${requests} requests, in which each is independent of the others. A page takes ${render} to render and ${bytes} to keep, as measured here.`,
} as const
