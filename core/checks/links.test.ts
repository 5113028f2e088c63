// What the rules on links claim: proven only if every link was followed to its end, and none is dead.
import { describe, expect, it } from 'vitest'
import { readDefinition } from '../blog/read.ts'
import { demo } from '../testing/demo.ts'
import type { Answer, Facts, Link } from './facts.ts'
import { provenBy } from './run.ts'
import { internalLinkDead } from './rules/internal-link-dead.ts'
import { linkUnmatched } from './rules/link-unmatched.ts'

const definition = readDefinition(demo)
if (!definition.ok) throw new Error(JSON.stringify(definition.problems))

const OK: Answer = {
  status: 200,
  location: null,
  policy: null,
  body: '<h2 id="h-start">Start</h2>',
  route: null,
  failure: null,
}

/** Facts of a blog with some links, whose addresses answer as given. All others answer 200. */
function factsOf(hrefs: readonly string[], answers: Record<string, Partial<Answer>> = {}): Facts {
  const links = hrefs.map((href): Link => ({
    href,
    document: 'content/posts/moth.md',
    line: null,
    where: '“Moth”',
    isPublic: true,
  }))
  const facts: Partial<Facts> = {
    definition: definition.ok ? definition.value : undefined,
    links: () => Promise.resolve(links),
    addresses: () => Promise.resolve({ known: [], total: 0 }) as never,
    hidden: () => Promise.resolve({ known: [], total: 0 }),
    analysis: () => Promise.resolve({ reach: [], overlaps: [] }),
    visibleBySlug: () => Promise.resolve(new Map()),
    document: () => Promise.resolve(hrefs.map((href) => `[a](${href})`).join(' ')),
    request: (path: string) => Promise.resolve({ ...OK, ...answers[path] }),
  } as Partial<Facts>
  return facts as Facts
}
async function results(facts: Facts) {
  const [unmatched, dead] = [await linkUnmatched.run(facts), await internalLinkDead.run(facts)]
  return {
    findings: [...unmatched.findings, ...dead.findings].map((one) => one.subject),
    proven: [unmatched, dead].map(({ claim }) => claim && provenBy(claim).count),
  }
}
const redirect = (location: string): Partial<Answer> => ({ status: 301, location })

describe('links', () => {
  it('are proven if every address answers', async () => {
    expect(await results(factsOf(['/posts/a', '/about', '/about']))).toEqual({
      findings: [],
      proven: ['2 links', '3 links'],
    })
  })

  it('prove nothing beside a dead one, whichever rule reports it', async () => {
    for (const path of ['/posts/a', '/no/such/route'])
      expect(await results(factsOf([path, '/about'], { [path]: { status: 404 } }))).toEqual({
        findings: [path],
        proven: [null, null],
      })
  })

  it('prove nothing if there are too many addresses to request all of them', async () => {
    const many = (count: number) => Array.from({ length: count }, (_, at) => `/posts/post-${at}`)
    expect((await results(factsOf(many(2_000)))).proven).toEqual(['2,000 links', '2,000 links'])
    expect((await results(factsOf(many(2_001)))).proven).toEqual([null, null])
  })

  it('are followed through redirects, and are dead if these do not end', async () => {
    const chain = { '/a': redirect('/b'), '/b': redirect('/c') }
    expect((await results(factsOf(['/a'], chain))).findings).toEqual([])
    expect((await results(factsOf(['/a'], { ...chain, '/c': { status: 410 } }))).findings).toEqual(['/a'])
    expect((await results(factsOf(['/a'], { '/a': redirect('/b'), '/b': redirect('/a') }))).findings).toEqual(
      ['/a'],
    )
    expect(
      (await results(factsOf(['/a'], { '/a': redirect('https://elsewhere.example/') }))).findings,
    ).toEqual([])
  })

  it('to headings prove nothing if their page could not be read', async () => {
    expect((await results(factsOf(['/a#h-start']))).proven).toEqual(['1 link', '1 link'])
    expect((await results(factsOf(['/a#h-end']))).findings).toEqual(['content/posts/moth.md /a#h-end'])
    const moved = await results(factsOf(['/a#h-end'], { '/a': redirect('/b') }))
    expect(moved).toEqual({ findings: [], proven: ['1 link', null] })
  })
})
