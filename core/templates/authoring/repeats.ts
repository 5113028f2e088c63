/** Finds markup that a template repeats, or shares with another one. It could be a partial. */

export interface Lines {
  template: string
  /** 1-based. */
  from: number
  to: number
}

export interface Repeat {
  from: number
  to: number
  /** Where the same markup is, the template itself included. */
  others: Lines[]
  /** Without spaces around lines. */
  characters: number
}

/** Shorter markup is not worth a partial, in characters. */
const LEAST = 120
/** Lines that begin no repeated markup are too common: `</div>`. */
const LEAST_LINE = 12
/** Lines that are the same as one line. More are as common as `</div>`. */
const MOST_SAME = 50

/**
 * @param template whose markup is looked at
 * @param texts of all templates, by name
 */
export function repeatsIn(template: string, texts: ReadonlyMap<string, string>): Repeat[] {
  const lines = new Map([...texts].map(([name, text]) => [name, text.split('\n').map((line) => line.trim())]))
  const own = lines.get(template) ?? []
  const places = new Map<string, { name: string; index: number }[]>()
  for (const [name, all] of lines)
    for (const [index, line] of all.entries()) {
      if (!isMarkup(line)) continue
      const known = places.get(line)
      if (known) known.push({ name, index })
      else places.set(line, [{ name, index }])
    }
  const found = new Map<string, Repeat>()
  for (const [index, line] of own.entries()) {
    const same = places.get(line) ?? []
    if (same.length > MOST_SAME) continue
    for (const other of same) {
      if (other.name === template && other.index === index) continue
      const all = lines.get(other.name) ?? []
      const isLonger =
        index > 0 && other.index > 0 && own[index - 1] === all[other.index - 1] && own[index - 1] !== ''
      if (isLonger) continue
      const length = sameLines(own, index, all, other.index, other.name === template)
      const characters = own.slice(index, index + length).join('').length
      if (characters < LEAST) continue
      const key = `${index} ${length}`
      const repeat = found.get(key) ?? { from: index + 1, to: index + length, others: [], characters }
      repeat.others.push({ template: other.name, from: other.index + 1, to: other.index + length })
      found.set(key, repeat)
    }
  }
  return [...found.values()].sort((a, b) => b.characters - a.characters)
}

const isMarkup = (line: string) => line.length >= LEAST_LINE && /<[a-z]/i.test(line)

/** Returns how many lines are the same from two places on. Two places of one template do not overlap. */
function sameLines(
  own: readonly string[],
  index: number,
  other: readonly string[],
  at: number,
  isSame: boolean,
) {
  const most = isSame ? Math.abs(index - at) : Infinity
  let length = 0
  while (length < most && own[index + length] !== undefined && own[index + length] === other[at + length])
    length++
  while (length > 0 && own[index + length - 1] === '') length--
  return length
}
