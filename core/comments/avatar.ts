/** Draws a writer's picture: coloured shapes that follow from a code, so that the same writer always has the same ones. */

const CODE = /^[\w-]{8,24}$/
const SIZE = 56
const TINTS = ['#b9472a', '#1e3f94', '#3a7752', '#9a6300', '#6d4c8f', '#0f6b75', '#8c2f55', '#4a5a2b']
const GROUNDS = ['#f3e4d8', '#e3e9f6', '#e1efe6', '#f6ecd3', '#ece4f3', '#ddeef0', '#f5e0e9', '#e9eddd']

/** Returns an SVG image of a code; undefined for a text that is none. */
export function drawAvatar(code: string): string | undefined {
  if (!CODE.test(code)) return undefined
  const values = numbersOf(code)
  const pick = <T>(list: readonly T[]) => list[values() % list.length]
  const shape = () => {
    const [x, y, size] = [8 + (values() % 40), 8 + (values() % 40), 10 + (values() % 16)]
    const fill = `fill="${pick(TINTS) ?? ''}" fill-opacity="${0.55 + (values() % 4) / 10}"`
    switch (values() % 3) {
      case 0:
        return `<circle cx="${x}" cy="${y}" r="${size}" ${fill}/>`
      case 1:
        return `<rect x="${x - size}" y="${y - 5}" width="${2 * size}" height="10" rx="5" transform="rotate(${values() % 180} ${x} ${y})" ${fill}/>`
      default:
        return `<path d="M${x - size} ${y}a${size} ${size} 0 0 1 ${2 * size} 0z" transform="rotate(${values() % 360} ${x} ${y})" ${fill}/>`
    }
  }
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${SIZE} ${SIZE}"><rect width="${SIZE}" height="${SIZE}" fill="${pick(GROUNDS) ?? ''}"/>${shape()}${shape()}${shape()}</svg>`
}

/** Returns a function that gives the next number of a sequence which the code determines (FNV-1a, then xorshift). */
function numbersOf(code: string): () => number {
  let state = 0x811c9dc5
  for (let index = 0; index < code.length; index++)
    state = Math.imul(state ^ code.charCodeAt(index), 0x01000193) >>> 0
  state ||= 1
  return () => {
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
    state >>>= 0
    return state >>> 3
  }
}
