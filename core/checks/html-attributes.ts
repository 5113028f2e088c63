/** Finds attributes that HTML does not know, and elements without the attribute that they need. */
import { ariaAttributes } from 'aria-attributes'
import { distance } from 'fastest-levenshtein'
import { htmlElementAttributes } from 'html-element-attributes'
import { closestName } from '../shapes/suggest-name.ts'
import { COMPUTED, withoutApart } from './without-apart.ts'

/** An element with an attribute that has no effect, or without one that it needs. */
export interface AttributeFault {
  element: string
  /** The attribute that is wrong or missing. */
  attribute: string
  /** What is there, e.g. `<article clss>`. */
  markup: string
  /** A sentence. */
  message: string
  /** What was probably meant, e.g. `class`; null if that is not known. */
  meant: string | null
}

const KNOWN: Readonly<Record<string, readonly string[]>> = htmlElementAttributes
const ARIA = new Set(ariaAttributes)
/** Attributes that other standards add to all elements: RDFa 1.1, ARIA and XML. */
const ADDED = new Set([
  ...['about', 'content', 'datatype', 'inlist', 'prefix', 'property', 'resource', 'rev', 'typeof', 'vocab'],
  ...['role', 'xmlns'],
])
/**
 * Types of links: of the HTML standard (section 4.6.7), and of microformats.org/wiki/existing-rel-values as far as they are in
 * use on blogs (from memory).
 */
const LINK_TYPES = new Set([
  ...['alternate', 'author', 'bookmark', 'canonical', 'dns-prefetch', 'expect', 'external', 'help', 'icon'],
  ...['license', 'manifest', 'me', 'modulepreload', 'next', 'nofollow', 'noopener', 'noreferrer', 'opener'],
  ...['pingback', 'preconnect', 'prefetch', 'preload', 'prev', 'privacy-policy', 'search', 'stylesheet'],
  ...['tag', 'terms-of-service', 'compression-dictionary'],
  ...['apple-touch-icon', 'mask-icon', 'shortcut', 'ugc', 'sponsored', 'webmention', 'feed', 'home', 'first'],
  ...[
    'last',
    'up',
    'index',
    'start',
    'contents',
    'archives',
    'self',
    'hub',
    'previous',
    'glossary',
    'friend',
  ],
])

/** Attributes of `<a>` without an address that say what it is for. */
const PLACEHOLDER = ['href', 'id', 'name', 'role', 'aria-current', 'aria-disabled']

/** Returns what is wrong with the attributes of an element of a page. */
export function attributeFaults(
  element: string,
  attributes: Readonly<Record<string, string>>,
): AttributeFault[] {
  const own = KNOWN[element]
  const global = KNOWN['*'] ?? []
  const found: AttributeFault[] = []
  const names = Object.keys(attributes)
  // Other elements are custom ones, or unknown ones, which are reported as such.
  if (own ?? isPlain(element))
    for (const attribute of names) {
      const fault = unknownAttribute(element, attribute, [...(own ?? []), ...global])
      if (fault) found.push(fault)
    }
  for (const type of (attributes['rel'] ?? '').toLowerCase().split(/\s+/)) {
    if (type === '' || LINK_TYPES.has(type)) continue
    const meant = [...LINK_TYPES].find((one) => one.length > 2 && distance(one, type) === 1)
    if (meant === undefined) continue
    found.push({
      ...{ element, attribute: 'rel', meant },
      markup: `<${element} rel="${type}">`,
      message: `There is no link type “${type}”.`,
    })
  }
  const missing = missingAttribute(element, attributes)
  return missing ? [...found, missing] : found
}

/** Elements of HTML that have no attributes of their own. */
const isPlain = (element: string): boolean =>
  /^(abbr|address|article|aside|b|bdi|cite|code|dd|dfn|em|figcaption|figure|footer|header|hgroup|i|kbd|main|mark|nav|noscript|picture|rp|rt|ruby|s|samp|search|section|small|span|strong|sub|summary|sup|title|u|var)$/.test(
    element,
  )

function unknownAttribute(
  element: string,
  attribute: string,
  known: readonly string[],
): AttributeFault | undefined {
  const isAria = attribute.startsWith('aria-')
  // Handlers are reported by the content security policy. Names with other characters belong to libraries of scripts.
  if (!isAria && (!/^[a-z]+$/.test(attribute) || attribute.startsWith('on') || ADDED.has(attribute)))
    return undefined
  if (isAria ? ARIA.has(attribute) : known.includes(attribute)) return undefined
  return {
    ...{ element, attribute },
    markup: `<${element} ${attribute}="…">`,
    message: `<${element}> has no attribute “${attribute}”.`,
    meant: closestName(attribute, isAria ? [...ARIA] : known) ?? null,
  }
}

function missingAttribute(
  element: string,
  attributes: Readonly<Record<string, string>>,
): AttributeFault | undefined {
  const has = (one: string) => attributes[one] !== undefined
  if (element === 'a' && !PLACEHOLDER.some(has))
    return {
      ...{ element, attribute: 'href', meant: null, markup: '<a>' },
      message: 'A link without “href” leads nowhere.',
    }
  if (element === 'img' && !has('alt'))
    return {
      ...{ element, attribute: 'alt', meant: null, markup: '<img>' },
      message: 'An image needs an alternative text, or alt="" if it is decorative.',
    }
  const [label] = ['name', 'property'].filter(has)
  if (element === 'meta' && label !== undefined && !has('content'))
    return {
      ...{ element, attribute: 'content', meant: null },
      markup: `<meta ${label}="${attributes[label] ?? ''}">`,
      message: `<meta ${label}="${attributes[label] ?? ''}"> has no “content”.`,
    }
  return undefined
}

const TAG = /<([a-z][a-z0-9-]*)((?:"[^"]*"|'[^']*'|[^<>"'])*)>/gi
const ATTRIBUTE = /([^\s"'<>/=]+)(?:\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s"'<>]+)))?/g
/** Elements with languages of their own in them, comments, and elements whose text is not markup. */
const APART = /<!--|<(svg|math|script|style|textarea)\b/gi

/** Returns the faults of the attributes that a template has written out, with their offsets. */
export function templateAttributeFaults(template: string): (AttributeFault & { at: number })[] {
  const computed = template.replace(COMPUTED, (found) => PRINTED.repeat(found.length))
  const markup = withoutApart(computed, APART)
  return [...markup.matchAll(TAG)].flatMap(({ 1: name = '', 2: text = '', index: at }) => {
    // A tag of the template between attributes is no attribute.
    const written = [...text.matchAll(ATTRIBUTE)]
    const isComputed = written.some(([, key = '']) => key.includes(PRINTED))
    const attributes = Object.fromEntries(
      written.flatMap(([, key = '', ...values]) => {
        const literal = key.replaceAll(PRINTED, '')
        const value = values.find((one) => one !== undefined) ?? ''
        return literal === '' || (literal !== key && !isBeside(key))
          ? []
          : [[literal.toLowerCase(), value.replaceAll(PRINTED, '')]]
      }),
    )
    return attributeFaults(name.toLowerCase(), attributes)
      .concat(name.toLowerCase() === 'label' ? labelFaults(attributes, markup.slice(at)) : [])
      .filter((one) => !(isComputed && isMissing(one, attributes)))
      .map((one) => ({ ...one, at }))
  })
}

/** Characters in which a label ends. */
const LABEL = 2_000

/** Returns the fault of a label that belongs to no field. @param rest the markup from its start tag on */
function labelFaults(attributes: Readonly<Record<string, string>>, rest: string): AttributeFault[] {
  const [inside = ''] = rest.slice(0, LABEL).split(/<\/label/i)
  // A partial, or a value, may print a field.
  if (
    attributes['for'] !== undefined ||
    /<(input|select|textarea|button|meter|output|progress)\b/i.test(inside)
  )
    return []
  if (/^[^>]*>[^<]*\0/.test(inside)) return []
  return [
    {
      ...{ element: 'label', attribute: 'for', meant: null, markup: '<label>' },
      message: 'A label needs “for”, or a field inside it.',
    },
  ]
}

/** Stands for each character of a tag or an output of a template. */
const PRINTED = '\u0000'

/** Whether a name has tags of the template only before or after it: `{% if a %}hidden{% endif %}`. */
const isBeside = (key: string) => new RegExp(`^${PRINTED}*[^${PRINTED}]+${PRINTED}*$`).test(key)

/** Whether a fault is that an attribute is missing. */
const isMissing = ({ attribute }: AttributeFault, attributes: Readonly<Record<string, string>>) =>
  attributes[attribute] === undefined
