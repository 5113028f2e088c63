/** Completes tags and filters in templates. */
import { FILTERS, TAGS } from './reference.ts'

export interface Choice {
  value: string
  detail: string
}

export interface Completion {
  /** Where the word begins that is completed. */
  from: number
  choices: Choice[]
}

const choices = (names: Readonly<Record<string, string>>): Choice[] =>
  Object.entries(names).map(([value, detail]) => ({ value, detail }))

const endTags = (before: string): Choice[] =>
  openTags(before).map((name) => ({ value: `end${name}`, detail: `ends “${name}”` }))

/** Returns the tags that are open at the end of a text, the innermost first. */
export function openTags(before: string): string[] {
  const open: string[] = []
  for (const [, name = ''] of before.matchAll(/\{%-?\s*(\w+)/g)) {
    if (name.startsWith('end')) open.splice(open.lastIndexOf(name.slice(3)))
    else if (TAGS[name]?.includes(`end${name} %}`)) open.push(name)
  }
  return open.reverse()
}

/**
 * Returns the completions at a position: tags after `{%`, filters after `|`.
 * @param at offset of the cursor in the text
 */
export function completeTemplate(text: string, at: number): Completion | undefined {
  const before = text.slice(0, at)
  const open = Math.max(before.lastIndexOf('{{'), before.lastIndexOf('{%'))
  if (open === -1 || open < Math.max(before.lastIndexOf('}}'), before.lastIndexOf('%}'))) return undefined
  const inside = before.slice(open)
  const word = /[a-z_]*$/.exec(inside)?.[0] ?? ''
  const from = at - word.length
  const lead = inside.slice(0, inside.length - word.length)
  if (/^\{%-?\s*$/.test(lead)) return { from, choices: [...endTags(before.slice(0, open)), ...choices(TAGS)] }
  // Not inside a text in quotes.
  const unquoted = lead.replace(/"[^"]*("|$)|'[^']*('|$)/g, '')
  return /\|\s*$/.test(unquoted) ? { from, choices: choices(FILTERS) } : undefined
}
