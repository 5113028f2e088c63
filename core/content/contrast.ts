/** Contrast of colours (WCAG 2.2, “contrast ratio” and “relative luminance”), and of the tokens of a stylesheet. */

/** Returns red, green and blue from 0 to 1; undefined for anything but `#rgb` and `#rrggbb`. */
function channels(colour: string): [number, number, number] | undefined {
  const [, short, long] = /^#(?:([0-9a-f]{3})|([0-9a-f]{6}))$/i.exec(colour.trim()) ?? []
  const digits = long ?? short?.replace(/./g, '$&$&')
  if (digits === undefined) return undefined
  const at = (index: number) => parseInt(digits.slice(index, index + 2), 16) / 255
  return [at(0), at(2), at(4)]
}

function luminance(colour: string): number | undefined {
  const found = channels(colour)
  if (!found) return undefined
  const [red, green, blue] = found.map((one) =>
    one <= 0.04045 ? one / 12.92 : ((one + 0.055) / 1.055) ** 2.4,
  ) as [number, number, number]
  return 0.2126 * red + 0.7152 * green + 0.0722 * blue
}

/** Returns the contrast ratio of two colours, from 1 to 21; undefined if one of them is not `#rgb` or `#rrggbb`. */
export function contrast(one: string, other: string): number | undefined {
  const [first, second] = [luminance(one), luminance(other)]
  if (first === undefined || second === undefined) return undefined
  return (Math.max(first, second) + 0.05) / (Math.min(first, second) + 0.05)
}

/** Colours of texts, and what they are printed on. */
const PAIRS = [
  ['ink', 'ground'],
  ['muted', 'ground'],
  ['rust', 'ground'],
  ['link', 'ground'],
  ['ink', 'panel'],
  ['muted', 'panel'],
  ['error', 'ground'],
] as const

/** Returns the lowest contrast of texts in each scheme that the tokens of a stylesheet define. */
export function lowestContrast(css: string): number | undefined {
  const dark = /@media \(prefers-color-scheme: dark\)\s*\{\s*:root\s*\{([^}]*)\}/.exec(css)?.[1]
  const light = /:root\s*\{([^}]*)\}/.exec(css)?.[1]
  const found: number[] = []
  for (const block of [light, dark === undefined ? undefined : `${light ?? ''}${dark}`]) {
    const tokens = new Map(
      [...(block ?? '').matchAll(/--([\w-]+)\s*:\s*([^;]+)/g)].map(([, name = '', value = '']) => [
        name,
        value,
      ]),
    )
    for (const [text, ground] of PAIRS) {
      const ratio = contrast(tokens.get(text) ?? '', tokens.get(ground) ?? '')
      if (ratio !== undefined) found.push(ratio)
    }
  }
  return found.length === 0 ? undefined : Math.min(...found)
}
