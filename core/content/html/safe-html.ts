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
