/**
 * Scores how likely a comment is spam, from the decisions on this blog: multinomial naive Bayes with Laplace smoothing
 * (Manning, Raghavan and Schütze, Introduction to Information Retrieval, §13.2).
 */

export type Decision = 'spam' | 'shown'
type Tally = Record<Decision, number>

export interface Training {
  comments: Tally
  words: Tally
  /** How often each word occurs. */
  counts: Map<string, Tally>
}
/** What a comment is scored by. */
export interface ScoredText {
  name: string
  site: string
  text: string
}
export interface WordWeight {
  word: string
  /** The logarithm of how much more likely the word is in spam; below 0 if it is less likely. */
  weight: number
}

/** With fewer decisions of either kind, there is no score. */
const LEAST_DECISIONS = 5
/** Words of one comment that count. */
const MOST_WORDS = 1_000

export const untrained = (): Training => ({
  comments: { spam: 0, shown: 0 },
  words: { spam: 0, shown: 0 },
  counts: new Map(),
})

/** A link, of which the host counts as one word. */
const LINK = /https?:\/\/([^/\s"'<>)\]]{1,100})[^\s"'<>)\]]*/g

/** Returns the words of a comment, with the hosts of its links as words of their own. */
export function wordsOf({ name, site, text }: ScoredText): string[] {
  const whole = `${text}\n${site}`.normalize('NFKC').toLowerCase()
  const hosts = [...whole.matchAll(LINK)].map(([, host = '']) => `link:${host}`)
  const words = (one: string) => one.match(/[\p{L}\p{N}][\p{L}\p{M}\p{N}]{1,29}/gu) ?? []
  const named = words(name.normalize('NFKC').toLowerCase()).map((one) => `name:${one}`)
  return [...hosts, ...named, ...words(whole.replace(LINK, ' '))].slice(0, MOST_WORDS)
}

/** Adds a decision to a training, or takes it back. */
export function learn(
  { comments, words, counts }: Training,
  decision: Decision,
  added: readonly string[],
  by: 1 | -1 = 1,
): void {
  comments[decision] += by
  words[decision] += by * added.length
  for (const word of added) {
    const tally = counts.get(word) ?? { spam: 0, shown: 0 }
    tally[decision] += by
    if (tally.spam > 0 || tally.shown > 0) counts.set(word, tally)
    else counts.delete(word)
  }
}

/** Returns the probability that a comment with these words is spam, 0 to 1; null with too few decisions. */
export function spamScore(training: Training, words: readonly string[]): number | null {
  const { spam, shown } = training.comments
  if (Math.min(spam, shown) < LEAST_DECISIONS) return null
  const odds = words.reduce((sum, word) => sum + weightOf(training, word), Math.log(spam / shown))
  return 1 / (1 + Math.exp(-odds))
}

/** Returns the words that decide most, strongest first. A word that occurs more often counts more often. */
export function strongestWords(training: Training, words: readonly string[], most = 6): WordWeight[] {
  const weights = new Map<string, number>()
  for (const word of words)
    if (training.counts.has(word)) weights.set(word, (weights.get(word) ?? 0) + weightOf(training, word))
  return [...weights]
    .map(([word, weight]) => ({ word, weight }))
    .sort((a, b) => Math.abs(b.weight) - Math.abs(a.weight) || (a.word < b.word ? -1 : 1))
    .slice(0, most)
}

function weightOf({ words, counts }: Training, word: string): number {
  const tally = counts.get(word)
  const logOf = (decision: Decision) =>
    Math.log(((tally?.[decision] ?? 0) + 1) / (words[decision] + counts.size))
  return logOf('spam') - logOf('shown')
}
