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

const ESCAPES: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
}

/** Escapes text for element content and quoted attributes. */
export function escapeHtml(text: string): string {
  return /[&<>"']/.test(text) ? text.replace(/[&<>"']/g, (char) => ESCAPES[char] ?? char) : text
}
