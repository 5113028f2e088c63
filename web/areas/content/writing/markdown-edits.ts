/** The edits of the toolbar. Each returns one replacement in a Markdown text and the selection after it. */

export interface Selection {
  from: number
  to: number
}

export interface Edit {
  /** The replaced range of the old text. */
  from: number
  to: number
  insert: string
  /** In the new text. */
  select: Selection
}

/** Adds marks such as `**` around the selection, or removes existing ones. */
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

/** Converts the selected lines to headings, or headings of that level to plain lines. */
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

/** Inserts a link. The selected text becomes its text. */
export function link(text: string, { from, to }: Selection, address: string, title = 'link text'): Edit {
  const label = escapeLabel(text.slice(from, to) || title)
  return {
    from,
    to,
    insert: `[${label}](${address})`,
    select: { from: from + 1, to: from + 1 + label.length },
  }
}

/** Inserts an image on its own line, and selects its alt text, which still has to be written. */
export function image(text: string, { to }: Selection, address: string): Edit {
  const alternative = 'alt text'
  const before = separation(text.slice(0, to))
  const at = to + before.length + 2
  return {
    from: to,
    to,
    insert: `${before}![${alternative}](${address})\n`,
    select: { from: at, to: at + alternative.length },
  }
}

/** Inserts a block of several lines, separated from the text around it. */
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

/** Returns the line breaks that start a new paragraph. */
function separation(before: string): string {
  if (before === '' || before.endsWith('\n\n')) return ''
  return before.endsWith('\n') ? '\n' : '\n\n'
}

const escapeLabel = (text: string) => text.replace(/\n+/g, ' ').replace(/[[\]\\]/g, '\\$&')
