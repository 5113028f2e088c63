/** HTML that is safe to print without escaping. Only the Markdown pipeline and the template engine create it. */
export class SafeHtml {
  constructor(readonly html: string) {}
  toString(): string {
    return this.html
  }
  toJSON(): string {
    return this.html
  }
}

/**
 * Stands for a value that is inserted for each reader. Only printing it as it is prints its mark: a filter or a comparison
 * gets another text, so its result lacks the mark.
 */
export class Placeholder {
  /** @param mark safe HTML */
  constructor(readonly mark: string) {}
  toString(): string {
    return 'placeholder'
  }
  toJSON(): string {
    return 'placeholder'
  }
}

const SPECIAL = /[&<>"']/

/** Returns what a special character is written as; undefined for any other. */
function escapeOf(code: number): string | undefined {
  switch (code) {
    case 34:
      return '&quot;'
    case 38:
      return '&amp;'
    case 39:
      return '&#39;'
    case 60:
      return '&lt;'
    case 62:
      return '&gt;'
  }
  return undefined
}

/** Escapes text for element content and quoted attributes. Every printed text passes through it: most have nothing to escape. */
export function escapeHtml(text: string): string {
  const first = text.search(SPECIAL)
  if (first < 0) return text
  let escaped = ''
  let from = 0
  for (let at = first; at < text.length; at++) {
    const escape = escapeOf(text.charCodeAt(at))
    if (escape === undefined) continue
    escaped += text.slice(from, at) + escape
    from = at + 1
  }
  return escaped + text.slice(from)
}
