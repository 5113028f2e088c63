/** Finds names that a script uses, and that neither the script nor a browser has (eslint-scope; globals). */
import { parse } from 'acorn'
import { ariaAttributes } from 'aria-attributes'
import { analyze, type ScopeManager } from 'eslint-scope'
import { distance } from 'fastest-levenshtein'
import globals from 'globals'

export interface UnknownName {
  name: string
  line: number
  /** Whether it is called. */
  isCall: boolean
}

const KNOWN = new Set([
  ...Object.keys(globals.browser),
  ...Object.keys(globals.builtin),
  'arguments',
  'undefined',
])

/** Returns the names at the top of a script, which later scripts see; undefined for one that does not parse or is a module. */
export function globalNames(script: string): string[] | undefined {
  const scopes = scopesOf(script, 'script')
  return scopes && [...(scopes.globalScope?.variables.map((one) => one.name) ?? []), ...namesMade(scopes)]
}

/**
 * Returns the first use of each unknown name; none for a script that does not parse.
 * @param others names of other scripts
 */
export function unknownNames(script: string, others: ReadonlySet<string>): UnknownName[] {
  const asScript = scopesOf(script, 'script')
  const scopes = asScript ?? scopesOf(script, 'module')
  const found = new Map<string, UnknownName>()
  // Names that a script adds to the window, or asks for before it uses them.
  const given = new Set(
    [...script.matchAll(/(?:\b(?:window|globalThis|self)\s*\.\s*|\btypeof\s+)([\w$]+)/g)].map(
      ([, name]) => name,
    ),
  )
  for (const name of asScript ? namesMade(asScript) : []) given.add(name)
  for (const { identifier, resolved } of scopes?.globalScope?.through ?? []) {
    const { name, loc } = identifier
    if (resolved || KNOWN.has(name) || others.has(name) || given.has(name) || found.has(name)) continue
    const after = script.slice((identifier as { end?: number }).end ?? 0)
    found.set(name, { name, line: loc?.start.line ?? 1, isCall: /^\s*\(/.test(after) })
  }
  return [...found.values()]
}

/** Returns the constants that a script gives another value, which makes it stop. */
export function changedConstants(script: string): { name: string; line: number }[] {
  const scopes = scopesOf(script, 'script') ?? scopesOf(script, 'module')
  return (scopes?.scopes ?? []).flatMap(({ variables }) =>
    variables.flatMap(({ name, defs: [definition], references }) => {
      if ((definition?.parent as { kind?: string } | null)?.kind !== 'const') return []
      const change = references.find((one) => one.isWrite() && one.init !== true)
      return change ? [{ name, line: change.identifier.loc?.start.line ?? 1 }] : []
    }),
  )
}

/** Long names of the DOM that scripts use most. */
const MEMBERS =
  `addEventListener removeEventListener querySelector querySelectorAll getElementById getElementsByClassName
  preventDefault stopPropagation textContent innerHTML insertAdjacentHTML setAttribute getAttribute removeAttribute
  appendChild replaceWith replaceChildren createElement classList currentTarget parentElement nextElementSibling
  scrollIntoView requestAnimationFrame activeElement documentElement firstElementChild lastElementChild
  previousElementSibling replaceState clientHeight clientWidth offsetHeight scrollHeight hasAttribute toggleAttribute`.split(
    /\s+/,
  )

/** The properties of ARIA attributes (WAI-ARIA 1.2, section 10.2.1), e.g. `ariaBusy`. */
const ARIA = ariaAttributes.map((one) => one.replace(/-(.)/g, (_, letter: string) => letter.toUpperCase()))
/** Members that are similar to those. */
const ALIKE = ['hasAttributes']

/** Returns members that are called like one of the DOM, but for one or two letters. */
export function misspeltMembers(script: string): { name: string; meant: string; line: number }[] {
  const found: { name: string; meant: string; line: number }[] = []
  const seen = new Set([...MEMBERS, ...ARIA, ...ALIKE])
  for (const { 1: name = '', index } of script.matchAll(/(?<=[\w)\]?])\.([A-Za-z]{8,})\b/g)) {
    // createElementNS, setAttributeNS.
    if (seen.has(name) || name.endsWith('NS')) continue
    seen.add(name)
    const meant = [...MEMBERS, ...ARIA].find((one) => distance(one, name) <= 2)
    if (meant === undefined) continue
    // A name of its own is set somewhere. Only few names are similar, so the script is not searched often.
    const isOwn = new RegExp(`\\b${name}\\s*(?:=(?!=)|:|\\([^()]*\\)\\s*\\{)`).test(script)
    if (!isOwn) found.push({ name, meant, line: script.slice(0, index).split('\n').length })
  }
  return found
}

/** Returns the names that a script without strict mode makes by giving them a value. */
const namesMade = ({ globalScope }: ScopeManager): string[] =>
  (globalScope?.through ?? []).flatMap((one) => (one.isWrite() ? [one.identifier.name] : []))

function scopesOf(script: string, sourceType: 'script' | 'module') {
  try {
    const tree = parse(script, { ecmaVersion: 2024, sourceType, locations: true, ranges: true })
    return analyze(tree as Parameters<typeof analyze>[0], { ecmaVersion: 2024, sourceType })
  } catch (error) {
    if (error instanceof SyntaxError) return undefined
    throw error
  }
}
