/** The headings of a text, for a table of contents. */
import { Parser } from 'htmlparser2'

export interface Heading {
  /** The anchor that the text gives it: `h-why-it-whistles`. */
  id: string
  /** Its text without tags. */
  text: string
  /** 1 to 6. */
  level: number
}

/** Returns the headings of safe HTML that have an anchor, in order. */
export function headingsOf(html: string): Heading[] {
  const found: Heading[] = []
  let open: Heading | undefined
  const parser = new Parser(
    {
      onopentag(name, { id }) {
        const level = /^h[1-6]$/.test(name) ? Number(name[1]) : 0
        if (level > 0 && id !== undefined) open = { id, text: '', level }
      },
      ontext(text) {
        if (open) open.text += text
      },
      onclosetag(name) {
        if (!open || name !== `h${open.level}`) return
        found.push({ ...open, text: open.text.replace(/\s+/g, ' ').trim() })
        open = undefined
      },
    },
    { decodeEntities: true },
  )
  parser.end(html)
  return found
}
