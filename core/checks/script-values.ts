/** Finds values in scripts that browsers do not know: selectors, events, methods of requests, and options (acorn; css-tree). */
import type { AnyNode, CallExpression, Property } from 'acorn'
import { parse as parseStyle } from 'css-tree'
import { distance } from 'fastest-levenshtein'
import { htmlEventAttributes } from 'html-event-attributes'
import { nodesOfScript } from './script-tree.ts'

export interface WrongValue {
  line: number
  /** The value, and what was probably meant; null if that is not known. */
  actual: string
  expected: string | null
  /** The fault, as a sentence without its full stop. */
  message: string
}

/** A name that a script reads as `element.dataset.name`. */
export interface DataRead {
  /** The attribute, e.g. `data-name`. */
  attribute: string
  line: number
}

const SELECTING = new Set(['querySelector', 'querySelectorAll', 'closest', 'matches'])
const LISTENING = new Set(['addEventListener', 'removeEventListener'])

/** Events of HTML, and those of documents, pointers and animations that have no attribute there (from memory). */
const EVENTS = new Set([
  ...Object.values(htmlEventAttributes)
    .flat()
    .map((one) => one.slice('on'.length)),
  ...['DOMContentLoaded', 'readystatechange', 'visibilitychange', 'fullscreenchange', 'selectionchange'],
  ...['pointerdown', 'pointerup', 'pointermove', 'pointerenter', 'pointerleave', 'pointerover', 'pointerout'],
  ...['pointercancel', 'touchstart', 'touchend', 'touchmove', 'touchcancel', 'focusin', 'focusout'],
  ...['transitionend', 'animationend', 'animationstart', 'popstate', 'hashchange', 'beforeinput', 'submit'],
])

/** The options of a request (Fetch standard, section 5.4). */
const FETCH =
  'method headers body referrer referrerPolicy mode credentials cache redirect integrity keepalive signal duplex priority window'.split(
    ' ',
  )

/** The options of a method whose values are keywords (Fetch standard; CSSOM View). */
const SCROLLING = {
  block: ['start', 'center', 'end', 'nearest'],
  inline: ['start', 'center', 'end', 'nearest'],
  behavior: ['auto', 'instant', 'smooth'],
}
const OPTIONS: Readonly<Record<string, Readonly<Record<string, readonly string[]>>>> = {
  fetch: {
    // These may be written in small letters, too; “patch” may not (Fetch standard, to normalize a method).
    method: 'GET POST PUT DELETE HEAD OPTIONS PATCH get post put delete head options'.split(' '),
    credentials: ['omit', 'same-origin', 'include'],
    mode: ['cors', 'no-cors', 'same-origin', 'navigate'],
    redirect: ['follow', 'error', 'manual'],
    cache: ['default', 'no-store', 'reload', 'no-cache', 'force-cache', 'only-if-cached'],
  },
  scrollIntoView: SCROLLING,
  scrollTo: SCROLLING,
  scrollBy: SCROLLING,
}

/** Returns the values that browsers do not know; none for a script that does not parse. */
export function wrongValues(script: string): WrongValue[] {
  const found: WrongValue[] = []
  for (const node of nodesOfScript(script)) {
    if (node.type !== 'CallExpression') continue
    const name = calledName(node)
    const [first] = node.arguments
    const text = first?.type === 'Literal' && typeof first.value === 'string' ? first.value : undefined
    const line = node.loc?.start.line ?? 1
    if (SELECTING.has(name) && text !== undefined) {
      const line = first?.loc?.start.line ?? 1
      if (isInvalid(text))
        found.push({ line, actual: text, expected: null, message: `“${text}” is not a valid selector` })
    } else if (LISTENING.has(name) && text !== undefined && !EVENTS.has(text)) {
      // Scripts have events of their own.
      const expected = [...EVENTS].find(
        (one) => distance(one, text) <= 2 && Math.min(one.length, text.length) > 4,
      )
      if (expected !== undefined)
        found.push({ line, actual: text, expected, message: `“${text}” is not an event` })
    }
    const options = OPTIONS[name]
    if (options) found.push(...optionFaults(node, name, options))
  }
  return found
}

function optionFaults(
  call: CallExpression,
  name: string,
  options: Readonly<Record<string, readonly string[]>>,
): WrongValue[] {
  return call.arguments.flatMap((given) => {
    if (given.type !== 'ObjectExpression') return []
    return given.properties.flatMap((one) => {
      if (one.type !== 'Property') return []
      const key = keyOf(one)
      const meant =
        name === 'fetch' && !FETCH.includes(key) && FETCH.find((other) => distance(other, key) === 1)
      if (meant) {
        const message = `“fetch” has no option “${key}”`
        return [{ line: one.loc?.start.line ?? 1, actual: key, expected: meant, message }]
      }
      if (one.value.type !== 'Literal') return []
      const { value, loc } = one.value
      const allowed = options[key]
      if (!allowed || typeof value !== 'string' || allowed.includes(value)) return []
      const expected = allowed.find((other) => distance(other, value) <= 2) ?? allowed[0] ?? null
      const message = `“${key}” has the value “${value}”, which browsers do not know`
      return [{ line: loc?.start.line ?? 1, actual: value, expected, message }]
    })
  })
}

/** Returns the `data-` attributes that a script reads and does not set; none for a script that does not parse. */
export function dataReads(script: string): DataRead[] {
  const reads: DataRead[] = []
  const set = new Set<string>()
  for (const node of nodesOfScript(script)) {
    if (node.type === 'AssignmentExpression' && node.left.type === 'MemberExpression') {
      const name = dataName(node.left)
      if (name !== undefined) set.add(name)
    }
    if (node.type !== 'MemberExpression') continue
    const name = dataName(node)
    if (name !== undefined) reads.push({ attribute: name, line: node.loc?.start.line ?? 1 })
  }
  return reads.filter((one) => !set.has(one.attribute))
}

/** Returns the attribute of `element.dataset.name`. */
function dataName(node: AnyNode): string | undefined {
  if (node.type !== 'MemberExpression' || node.computed || node.property.type !== 'Identifier')
    return undefined
  const { object, property } = node
  if (object.type !== 'MemberExpression' || object.computed || object.property.type !== 'Identifier')
    return undefined
  if (object.property.name !== 'dataset') return undefined
  return `data-${property.name.replace(/[A-Z]/g, (one) => `-${one.toLowerCase()}`)}`
}

const keyOf = ({ key }: Property): string =>
  key.type === 'Identifier' ? key.name : key.type === 'Literal' ? String(key.value) : ''

function calledName({ callee }: CallExpression): string {
  if (callee.type === 'Identifier') return callee.name
  return callee.type === 'MemberExpression' && callee.property.type === 'Identifier'
    ? callee.property.name
    : ''
}

function isInvalid(selector: string): boolean {
  // A name after brackets, which css-tree takes.
  let isWrong = /\][\w-]/.test(selector)
  try {
    parseStyle(selector, { context: 'selectorList', onParseError: () => (isWrong = true) })
  } catch {
    return true
  }
  return isWrong
}
