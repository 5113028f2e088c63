/** Reads attributes of elements in HTML and in templates. What is in comments, scripts or shown as code is no element. */
import { Parser } from 'htmlparser2'

export interface FoundAttribute {
  value: string
  /** Where it is in the text. */
  index: number
}

/** Stands for what a template prints, so that positions stay the same. */
const PRINTED = '\u0001'

/**
 * Returns the values of an attribute that are paths of this blog, in order. Values with parts that a template prints are
 * left out.
 * @param element of any name, if absent
 */
export function attributesIn(text: string, attribute: string, element?: string): FoundAttribute[] {
  const found: FoundAttribute[] = []
  const html = withoutLiquid(text)
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        if (element !== undefined && name !== element) return
        const value = attributes[attribute]
        if (value === undefined || !/^\/(?!\/)/.test(value) || value.includes(PRINTED)) return
        const at = html.indexOf(value, parser.startIndex)
        found.push({ value, index: at === -1 ? parser.startIndex : at })
      },
    },
    { decodeEntities: true },
  )
  parser.end(html)
  return found
}

/** Blanks out comments of a template, and marks what it prints or decides. */
const withoutLiquid = (text: string): string =>
  text.replace(
    /\{%-?\s*comment\s*-?%\}[\s\S]*?\{%-?\s*endcomment\s*-?%\}|\{%[\s\S]*?%\}|\{\{[\s\S]*?\}\}/g,
    (part) => part.replace(/[^\n]/g, part.startsWith('{{') ? PRINTED : ' '),
  )
