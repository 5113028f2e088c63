/** Reads which classes and ids the scripts of a blog look for (acorn). */
import type { AnyNode } from 'acorn'
import { childrenOf, scriptTree } from './script-tree.ts'

/** A class (`.name`) or an id (`#name`) that a script looks for. */
export interface Selector {
  name: string
  line: number
}

export interface ReadScript {
  selectors: Selector[]
  /** The words of all other texts in the script, which may make elements with these classes and ids. */
  words: Set<string>
}

const LOOKING = new Set(['querySelector', 'querySelectorAll', 'closest', 'matches'])
const NAMED = /([.#])(-?[_a-zA-Z][\w-]*)/g

/** @returns undefined for a script that does not parse */
export function readScript(script: string): ReadScript | undefined {
  const selectors: Selector[] = []
  const words = new Set<string>()
  const read = (text: string, { loc }: AnyNode, method: string | undefined) => {
    const line = loc?.start.line ?? 1
    if (method === 'getElementById') selectors.push({ name: `#${text}`, line })
    else if (method !== undefined)
      // Values of attributes and of functional pseudo-classes are texts, not names.
      for (const [, sign = '', name = ''] of text.replace(/\[[^\]]*\]/g, '').matchAll(NAMED))
        selectors.push({ name: sign + name, line })
    else for (const word of text.match(/-?[_a-zA-Z][\w-]*/g) ?? []) words.add(word)
  }
  const visit = (node: AnyNode, method?: string) => {
    if (node.type === 'Literal' && typeof node.value === 'string') read(node.value, node, method)
    else if (node.type === 'TemplateElement') read(node.value.cooked ?? '', node, undefined)
    else
      for (const [key, child] of childrenOf(node))
        visit(child, key === 'arguments' ? methodOf(node) : undefined)
  }
  const tree = scriptTree(script)
  if (!tree) return undefined
  visit(tree)
  return { selectors, words }
}

function methodOf(node: AnyNode): string | undefined {
  if (node.type !== 'CallExpression' || node.callee.type !== 'MemberExpression') return undefined
  const { property } = node.callee
  const name = property.type === 'Identifier' ? property.name : ''
  return LOOKING.has(name) || name === 'getElementById' ? name : undefined
}
