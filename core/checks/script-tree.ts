/** Parses scripts (acorn). */
import { parse, type AnyNode } from 'acorn'

/** Returns the tree of a script, or of a module; undefined for one that does not parse. */
export function scriptTree(script: string): AnyNode | undefined {
  for (const sourceType of ['script', 'module'] as const)
    try {
      return parse(script, { ecmaVersion: 'latest', sourceType, locations: true })
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error
    }
  return undefined
}

/** Yields the nodes directly below a node, each with the name under which it is there. */
export function* childrenOf(node: AnyNode): Generator<[key: string, child: AnyNode]> {
  for (const [key, child] of Object.entries(node) as [string, unknown][])
    for (const one of Array.isArray(child) ? (child as unknown[]) : [child]) if (isNode(one)) yield [key, one]
}

/** Yields all nodes of a script, in no certain order. */
export function* nodesOfScript(script: string): Generator<AnyNode> {
  const tree = scriptTree(script)
  const open = tree ? [tree] : []
  for (let node = open.pop(); node; node = open.pop()) {
    yield node
    for (const [, child] of childrenOf(node)) open.push(child)
  }
}

const isNode = (value: unknown): value is AnyNode =>
  typeof value === 'object' && value !== null && 'type' in value && typeof value.type === 'string'
