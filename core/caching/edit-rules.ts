/** Changes a rule in the text of cache.yaml. YAML comments, and everything else, stay as they are. */
import { isMap, parseDocument } from 'yaml'
import type { PageRule, RefreshMode } from '../shapes/cache-rules.ts'

/**
 * @param rule undefined to remove it
 * @returns undefined if the text is not a mapping
 */
export const withPageRule = (text: string, route: string, rule: PageRule | undefined): string | undefined =>
  withRule(text, ['pages', route], rule)

/** @param refresh `both` is the default, which needs no rule */
export const withFragmentRule = (text: string, fragment: string, refresh: RefreshMode): string | undefined =>
  withRule(text, ['fragments', fragment], refresh === 'both' ? undefined : { refresh })

/** @param lifetime of pages in the edge cache; undefined to switch it off */
export const withEdgeRule = (text: string, lifetime: string | undefined): string | undefined =>
  withRule(text, ['edge'], lifetime === undefined ? undefined : { lifetime })

/** @param path of the rule */
function withRule(
  text: string,
  path: readonly [string, string?],
  rule: object | undefined,
): string | undefined {
  const [kind, name] = path
  const document = parseDocument(text)
  if (document.errors.length > 0 || (document.contents !== null && !isMap(document.contents)))
    return undefined
  if (rule === undefined) {
    if (!document.hasIn(path)) return text
    document.deleteIn(path)
    const left = document.get(kind)
    if (isMap(left) && left.items.length === 0) document.delete(kind)
    if (isMap(document.contents) && document.contents.items.length === 0) return ''
  } else {
    const node = document.createNode(rule)
    if (isMap(node)) node.flow = true
    // An empty mapping that was written on one line would stay so.
    if (name !== undefined && !isMap(document.get(kind))) document.set(kind, document.createNode({}))
    const rules = document.get(kind)
    if (name !== undefined && isMap(rules)) rules.flow = false
    document.setIn(path, node)
  }
  return document.toString({ lineWidth: 0, flowCollectionPadding: true })
}
