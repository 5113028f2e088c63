/** Changes the comment rules in the text of blog.yaml. YAML comments, and everything else, stay as they are. */
import { isMap, isScalar, parseDocument, type Document } from 'yaml'
import type { CommentRules } from '../shapes/comment-rules.ts'

/** The lines of `comments`, up to the next key at the top. */
const BLOCK = /^comments:.*\n?(?:(?:[ \t#].*)?\n)*(?:[ \t#].+)?/m

/** @returns undefined if the text is not a mapping */
export function withCommentRules(text: string, rules: CommentRules): string | undefined {
  const whole = parseDocument(text)
  if (whole.errors.length > 0 || !isMap(whole.contents)) return undefined
  const block = BLOCK.exec(text)
  const document = parseDocument(block?.[0] ?? 'comments:\n')
  const wanted = Object.keys(rules).length === 0 ? undefined : rules
  set(document, ['comments'], (document.toJS() as Record<string, unknown>)['comments'], wanted)
  const changed = wanted === undefined ? '' : document.toString({ lineWidth: 0, flowCollectionPadding: true })
  if (!block) return `${text.replace(/\n*$/, '\n')}${changed}`
  return text.slice(0, block.index) + changed + text.slice(block.index + block[0].length)
}

/** Changes as little as possible, so that what is written beside a value stays. */
function set(document: Document, path: readonly string[], before: unknown, after: unknown): void {
  if (JSON.stringify(before) === JSON.stringify(after)) return
  const node = document.getIn(path, true)
  if (isMap(node) && isPlain(before) && isPlain(after)) {
    for (const key of new Set([...Object.keys(before), ...Object.keys(after)]))
      set(document, [...path, key], before[key], after[key])
  } else if (after === undefined) document.deleteIn(path)
  else if (isScalar(node) && typeof after !== 'object') node.value = after
  else {
    const made = document.createNode(after)
    // What has one level is written on one line.
    if (path.length > 1 && 'flow' in made) made.flow = true
    document.setIn(path, made)
  }
}

const isPlain = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
