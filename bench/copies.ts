/** Copies and processes: what more processes give and cost, random operations, purges, and the memory of a store. */
import type { ChildProcess } from 'node:child_process'
import autocannon from 'autocannon'
import type { Change } from '../core/caching/change.ts'
import { NOTHING, type Dependence } from '../core/caching/dependence.ts'
import { ProcessFragmentStore } from '../core/caching/store.ts'
import { generator } from '../core/caching/what-if/simulate.ts'
import { plainCopy } from '../core/testing/plain-copy.ts'
import type { Blog } from '../server/reader/blog.ts'
import { textOfCopy } from '../server/reader/copies.ts'
import { addressesOfPages, renderedNow } from '../server/probes/copies/rendered-now.ts'
import { PostEntity } from '../server/store/entities/content.ts'
import { disturb, JUMPING_CLOCK, type Disturbed, type Outcome } from '../server/testing/disturbances.ts'
import { launch, stop } from './launch.ts'

export interface CopyFigure {
  what: string
  value: string
  ratio: string
  goal: string
}

const KEY = 'bench-key'
const median = (values: readonly number[]) =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? NaN

/** Starts the product with a number of processes for readers. */
async function started(
  data: string,
  processes: number,
  databaseUrl: string,
): Promise<{ child: ChildProcess; target: Disturbed }> {
  const { child, workbench, blogPort } = await launch(data, {
    ESQUINA_KEY: KEY,
    ESQUINA_PROCESSES: String(processes),
    DATABASE_URL: databaseUrl,
    ...JUMPING_CLOCK,
  })
  const parent = child.pid ?? 0
  return { child, target: { workbench, key: KEY, blogPort, databaseUrl, parent, hasJumpingClock: true } }
}

/** Requests a page as many readers do, and returns the answers per second. */
async function rate(port: number, headers: Record<string, string> = {}): Promise<number> {
  const { requests } = await autocannon({
    url: `http://127.0.0.1:${port}/posts`,
    connections: 16,
    duration: 4,
    headers,
    // Each connection is a reader: one alone may not ask for so much.
    setupClient: (client) => {
      let next = Math.floor(Math.random() * 1e6)
      const renew = () =>
        client.setHeaders({
          ...headers,
          'x-forwarded-for': `10.${(next >> 16) & 255}.${(next >> 8) & 255}.${next++ & 255}`,
        })
      renew()
      client.on('response', renew)
    },
  })
  return requests.average
}

/** @param databaseUrls of three databases with the demo */
export async function processFigures(
  folder: string,
  [one, two, three]: readonly [string, string, string],
): Promise<CopyFigure[]> {
  const figures: CopyFigure[] = []
  const single = await started(`${folder}/one`, 1, one)
  const double = await started(`${folder}/two`, 2, two)
  const rates: [number[], number[]] = [[], []]
  for (let round = 0; round < 3; round++)
    for (const [index, { target }] of [single, double].entries())
      rates[index]?.push(await rate(target.blogPort))
  await Promise.all([stop(single.child), stop(double.child)])
  const [alone, both] = rates.map(median) as [number, number]
  figures.push(
    { what: '  kept page, one process', value: `${alone.toFixed(0)}/s`, ratio: '1.00', goal: '' },
    {
      what: '  kept page, two processes (the load generator needs a core, too)',
      value: `${both.toFixed(0)}/s`,
      ratio: (both / alone).toFixed(2),
      goal: '≥ 1.70',
    },
  )
  const first = await started(`${folder}/first`, 1, one)
  const writes = await disturb(first.target, {
    operations: 3_000,
    random: generator(1),
    disturbEvery: Infinity,
  })
  await stop(first.child)
  const many = await started(`${folder}/three`, 3, three)
  const quiet = await disturb(many.target, {
    operations: 3_000,
    random: generator(1),
    disturbEvery: Infinity,
  })
  figures.push({
    what: '  acknowledged edit: one process, three processes',
    value: `${median(writes.editTimes).toFixed(0)} ms, ${median(quiet.editTimes).toFixed(0)} ms`,
    ratio: `+${(median(quiet.editTimes) - median(writes.editTimes)).toFixed(0)} ms`,
    goal: '≤ +50 ms',
  })
  const outcome: Outcome = await disturb(many.target, {
    operations: Number(process.env['ESQUINA_BENCH_OPERATIONS'] ?? 100_000),
    random: generator(Date.now()),
    disturbEvery: 2_000,
  })
  await stop(many.child)
  figures.push({
    what: `  ${(outcome.reads + outcome.edits).toLocaleString('en-GB')} random operations on three processes (${outcome.edits} edits; ${Object.entries(
      outcome.disturbances,
    )
      .map(([kind, count]) => `${count} × ${kind}`)
      .join(', ')}): old answers`,
    value: String(outcome.stale.length),
    ratio: `${((100 * outcome.hits) / outcome.reads).toFixed(0)} % from copies; not answered: ${JSON.stringify(outcome.failed)}`,
    goal: '0',
  })
  for (const one of outcome.stale.slice(0, 5))
    figures.push({ what: `    ${one}`, value: '', ratio: '', goal: '' })
  return figures
}

/** Purges against many copies, in memory. */
export function purgeFigures(): CopyFigure[] {
  const COPIES = 100_000
  const store = new ProcessFragmentStore(4 * 1024 ** 3)
  const text = 'x'.repeat(200)
  for (let id = 0; id < COPIES; id++) {
    const dependence: Dependence = {
      ...NOTHING,
      rows: new Map([[`posts:${id}`, new Set(['title', 'slug'])]]),
      sets: new Map([
        [
          `posts of category ${id % 500}`,
          {
            kind: 'count',
            count: { of: '', source: 'comments', named: 'approved', by: 'post' } as never,
            of: 'posts',
            id: id % 500,
          },
        ],
      ]),
    }
    const copy = plainCopy(text, { name: 'page post', dependence })
    store.set(`k${id}`, copy, store.generation)
  }
  const times: number[] = []
  for (let edit = 0; edit < 51; edit++) {
    const change: Change = {
      source: 'posts',
      id: edit * 1_000,
      kind: 'changed',
      fields: new Set(['title']),
      before: {},
      after: {},
    }
    const start = performance.now()
    store.affected([change], new Date())
    times.push(performance.now() - start)
  }
  return [
    {
      what: `  purge decision for one edit, ${COPIES.toLocaleString('en-GB')} copies, 500 sets`,
      value: `${median(times).toFixed(2)} ms`,
      ratio: `slowest ${Math.max(...times).toFixed(2)} ms`,
      goal: '≤ 10 ms',
    },
  ]
}

/** Of the copies that would be rendered as they are, how many are kept when titles, states and comments change. */
export async function precisionFigures(blog: Blog): Promise<CopyFigure[]> {
  const { addresses } = await addressesOfPages(blog, { newest: 60, oldest: 0, between: 0 })
  const random = generator(7)
  const posts = await blog.database.getRepository(PostEntity).find({ order: { id: 'ASC' } })
  const [kept, dropped] = [{ same: 0 }, { same: 0, different: 0 }]
  const EDITS = 25
  for (let edit = 0; edit < EDITS; edit++) {
    const before = await renderedNow(blog, addresses)
    const post = posts[Math.floor(random() * posts.length)]
    if (!post) continue
    await blog.store.rehearseWrites(
      ({ rows, readAt }) => before.store.affected(rows, readAt),
      async ({ pool, store }) => {
        const written = await store.write(async (unit) => {
          const change = [
            { title: `Edit ${edit}` },
            { publishedAt: null },
            { slug: `edit-${edit}` },
            { categoryId: 1 + (edit % 5) },
          ][edit % 4]
          await unit.manager.update(PostEntity, { id: post.id }, change ?? {})
          return { ok: true, value: null }
        })
        const gone = new Set(written.ok ? written.purged.map((one) => one.key) : [])
        const after = await renderedNow(blog, addresses, { pool })
        const now = new Map(after.store.entries())
        for (const [key, copy] of before.store.entries()) {
          const other = now.get(key)
          if (!other) continue
          const isSame = textOfCopy(other) === textOfCopy(copy)
          if (gone.has(key)) dropped[isSame ? 'same' : 'different']++
          else if (isSame) kept.same++
          else throw new Error(`${key} was kept, and is different.`)
        }
      },
    )
  }
  return [
    {
      what: `  copies that would be rendered as they are, and are kept (${EDITS} edits, ${addresses.length} pages)`,
      value: `${((100 * kept.same) / (kept.same + dropped.same)).toFixed(1)} %`,
      ratio: `${kept.same} of ${kept.same + dropped.same}; ${dropped.different} others dropped, 0 wrongly kept`,
      goal: '≥ 95 %',
    },
  ]
}

/** The memory of a store under an hour's worth of churn, beside its bound. */
export function memoryFigures(): CopyFigure[] {
  const BOUND = 64 * 1024 ** 2
  const CHURN = 200_000
  const collect = (globalThis as { gc?: () => void }).gc
  collect?.()
  const before = process.memoryUsage()
  const store = new ProcessFragmentStore(BOUND)
  const random = generator(3)
  for (let made = 0; made < CHURN; made++) {
    // A text that is held as one piece, as rendered pages are.
    const text = Buffer.from(`${made} ${'é'.repeat(2_000 + Math.floor(8_000 * random()))}`, 'utf8').toString()
    const dependence: Dependence = {
      ...NOTHING,
      rows: new Map(
        Array.from({ length: 8 }, (_, at) => [`posts:${Math.floor(random() * 5_000) + at}`, TITLES]),
      ),
    }
    store.set(
      `page post /posts/${made}`,
      plainCopy(text, { name: 'page post', dependence, madeAt: made }),
      store.generation,
    )
    if (made % 100 === 0)
      store.purge(
        [
          {
            source: 'posts',
            id: Math.floor(random() * 5_000),
            kind: 'changed',
            fields: TITLES,
            before: {},
            after: {},
          },
        ],
        new Date(),
      )
  }
  collect?.()
  const after = process.memoryUsage()
  const grown = after.heapUsed + after.external - before.heapUsed - before.external
  return [
    {
      what: `  memory of a store bounded to ${BOUND / 1024 ** 2} MB after ${CHURN.toLocaleString('en-GB')} copies (counted ${(store.bytes / 1024 ** 2).toFixed(0)} MB)`,
      value: `${(grown / 1024 ** 2).toFixed(0)} MB`,
      ratio: (grown / BOUND).toFixed(2),
      goal: '≤ 1.10',
    },
  ]
}
const TITLES = new Set(['title'])
