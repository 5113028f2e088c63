/** What the toolbar does to a Markdown text: plain values in, one replacement and the new selection out. */

export interface Selection {
  from: number
  to: number
}

export interface Edit {
  /** Replaced range of the old text. */
  from: number
  to: number
  insert: string
  /** In the new text. */
  select: Selection
}

/** Puts marks around the selection, or takes them away where they stand already: `**bold**`. */
export function surround(text: string, { from, to }: Selection, mark: string, placeholder: string): Edit {
  const { length } = mark
  const isMarked = text.slice(from - length, from) === mark && text.slice(to, to + length) === mark
  const inner = text.slice(from, to)
  if (isMarked)
    return {
      from: from - length,
      to: to + length,
      insert: inner,
      select: { from: from - length, to: to - length },
    }
  const content = inner === '' ? placeholder : inner
  return {
    from,
    to,
    insert: `${mark}${content}${mark}`,
    select: { from: from + length, to: from + length + content.length },
  }
}

/** Makes a heading of the lines of the selection, or plain lines of headings of that level. */
export function heading(text: string, { from, to }: Selection, level: number): Edit {
  const start = text.lastIndexOf('\n', from - 1) + 1
  const found = text.indexOf('\n', to)
  const end = found === -1 ? text.length : found
  const marks = `${'#'.repeat(level)} `
  const lines = text.slice(start, end).split('\n')
  const isHeading = lines.every((line) => line.startsWith(marks))
  const insert = lines
    .map((line) => (isHeading ? line.slice(marks.length) : marks + line.replace(/^#{1,6} +/, '')))
    .join('\n')
  return { from: start, to: end, insert, select: { from: start + insert.length, to: start + insert.length } }
}

/** A link; the selected text becomes its text. */
export function link(
  text: string,
  { from, to }: Selection,
  address: string,
  title = 'text of the link',
): Edit {
  const label = escapeLabel(text.slice(from, to) || title)
  return {
    from,
    to,
    insert: `[${label}](${address})`,
    select: { from: from + 1, to: from + 1 + label.length },
  }
}

/** An image on a line of its own, with its alternative text selected: it is what is missing. */
export function image(text: string, { to }: Selection, address: string): Edit {
  const alternative = 'what the image shows'
  const before = separation(text.slice(0, to))
  const at = to + before.length + 2
  return {
    from: to,
    to,
    insert: `${before}![${alternative}](${address})\n`,
    select: { from: at, to: at + alternative.length },
  }
}

/** A piece of several lines, apart from what stands around it. */
export function block(text: string, { from, to }: Selection, kind: 'table' | 'code'): Edit {
  const before = separation(text.slice(0, from))
  const selected = text.slice(from, to)
  const first = kind === 'table' ? 'column' : selected || 'code'
  const insert =
    kind === 'table'
      ? `| column | column |\n|---|---|\n| ${selected || 'cell'} | cell |\n`
      : `\`\`\`\n${selected || 'code'}\n\`\`\`\n`
  const at = from + before.length + insert.indexOf(first)
  return { from, to, insert: before + insert, select: { from: at, to: at + first.length } }
}

/** Line breaks that put what follows on a paragraph of its own. */
function separation(before: string): string {
  if (before === '' || before.endsWith('\n\n')) return ''
  return before.endsWith('\n') ? '\n' : '\n\n'
}

const escapeLabel = (text: string) => text.replace(/\n+/g, ' ').replace(/[[\]\\]/g, '\\$&')
