/** Reads forms and injected markup from a page as a browser parses it (WHATWG HTML, through `parse5`). */
import { parse, type DefaultTreeAdapterTypes } from 'parse5'
import type { FormField, PageForm } from '../../core/checks/comment-facts.ts'

type Node = DefaultTreeAdapterTypes.Node
type Element = DefaultTreeAdapterTypes.Element

const isElement = (node: Node): node is Element => 'tagName' in node
const attribute = (element: Element, name: string) => element.attrs.find((one) => one.name === name)?.value

function* elements(node: Node): Generator<Element> {
  if (isElement(node)) yield node
  if ('childNodes' in node) for (const child of node.childNodes) yield* elements(child)
}

function textOf(node: Node): string {
  if (node.nodeName === '#text' && 'value' in node) return node.value
  return 'childNodes' in node ? node.childNodes.map(textOf).join('') : ''
}

const BASE = 'http://blog.invalid'

/** @param address of the page, which actions are relative to */
export function readForms(html: string, address: string): PageForm[] {
  return [...elements(parse(html))]
    .filter((one) => one.tagName === 'form')
    .map((one) => readForm(one, address))
}

function readForm(form: Element, address: string): PageForm {
  const fields: FormField[] = []
  let unnamed = 0
  for (const one of elements(form)) {
    if (!['input', 'textarea', 'button'].includes(one.tagName)) continue
    const type = one.tagName === 'input' ? (attribute(one, 'type') ?? 'text').toLowerCase() : one.tagName
    const name = attribute(one, 'name') ?? ''
    if (attribute(one, 'disabled') !== undefined) continue
    if (name === '' && type !== 'button' && type !== 'submit') unnamed++
    else if (name !== '')
      fields.push({
        name,
        type,
        value: type === 'textarea' ? textOf(one) : (attribute(one, 'value') ?? ''),
        maxLength: lengthOf(attribute(one, 'maxlength')),
        isRequired: attribute(one, 'required') !== undefined,
      })
  }
  const url = URL.canParse(attribute(form, 'action') ?? '', BASE + address)
    ? new URL(attribute(form, 'action') ?? '', BASE + address)
    : undefined
  return {
    method: (attribute(form, 'method') ?? 'get').toLowerCase(),
    action: url?.origin === BASE ? url.pathname + url.search : null,
    encoding: (attribute(form, 'enctype') ?? 'application/x-www-form-urlencoded').toLowerCase(),
    fields,
    unnamed,
  }
}

const lengthOf = (text = ''): number | null => (/^\d+$/.test(text.trim()) ? Number(text) : null)

/** Returns the rel of the first link to an address that starts with a text; null without one. */
export function relOfLink(html: string, start: string): string | null {
  for (const one of elements(parse(html)))
    if (one.tagName === 'a' && attribute(one, 'href')?.startsWith(start) === true)
      return attribute(one, 'rel') ?? ''
  return null
}

/** Returns the address of the link whose query string has a value, as a path; null without one. */
export function linkWith(
  html: string,
  address: string,
  [name, value]: readonly [string, string],
): string | null {
  for (const one of elements(parse(html))) {
    const href = one.tagName === 'a' ? attribute(one, 'href') : undefined
    if (href === undefined || !URL.canParse(href, BASE + address)) continue
    const url = new URL(href, BASE + address)
    if (url.origin === BASE && url.searchParams.get(name) === value) return url.pathname + url.search
  }
  return null
}

/** The whole text of a page, without tags. */
export const pageText = (html: string): string => textOf(parse(html))

/** The attribute, and the id of an element, that hostile comments try to add. */
export const INJECTED_ATTRIBUTE = 'zqattr'
export const INJECTED_ID = 'zqelement'

/** Returns the tag that markup in a comment has changed or added; null if there is none. */
export function injectedTag(html: string): string | null {
  for (const one of elements(parse(html))) {
    if (attribute(one, INJECTED_ATTRIBUTE) !== undefined) return `<${one.tagName} ${INJECTED_ATTRIBUTE}>`
    if (attribute(one, 'id') === INJECTED_ID) return `<${one.tagName} id=${INJECTED_ID}>`
  }
  return null
}

/** What names a thread among the attributes of an embedding script. */
const NAMES_THREAD = /^data-.*(thread|identifier|key|id)$/

/**
 * Returns the thread of an outside service that a page names; the address of the page's own link if it names none but
 * embeds the service; null if it does not.
 */
export function embeddedThread(html: string, origin: string): string | null {
  for (const one of elements(parse(html))) {
    if (!['script', 'iframe'].includes(one.tagName)) continue
    if (!(attribute(one, 'src') ?? '').startsWith(`${origin}/`)) continue
    const named = one.attrs.find(({ name, value }) => NAMES_THREAD.test(name) && value !== '')
    return named?.value ?? attribute(one, 'data-address') ?? attribute(one, 'src') ?? ''
  }
  return null
}

/** Whether a page has an element with an id. */
export const hasId = (html: string, id: string): boolean =>
  [...elements(parse(html))].some((one) => attribute(one, 'id') === id)
