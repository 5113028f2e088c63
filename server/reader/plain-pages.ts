/** Plain pages that need neither templates nor scripts and show no internals. */
import { createHash } from 'node:crypto'
import { escapeHtml } from '../../core/content/html/safe-html.ts'

const STYLE =
  'body{max-width:34rem;margin:18vh auto 0;padding:0 1.5rem;font:1.125rem/1.6 system-ui,sans-serif;color:#23262d;background:#fbfaf6}' +
  'h1{font-size:1.75rem;line-height:1.2;margin:0 0 .5rem}a{color:#a03c1c}p{overflow-wrap:anywhere}' +
  '@media (prefers-color-scheme:dark){body{color:#ece8de;background:#1d2024}a{color:#f0a184}}'

/** The source for a Content-Security-Policy that allows the style of these pages (CSP Level 3, hash-source). */
export const PLAIN_STYLE = `'sha256-${createHash('sha256').update(STYLE).digest('base64')}'`

export interface PlainTexts {
  title: string
  text: string
  /** The words of the link to the front page. */
  home: string
  /** A BCP 47 tag. */
  language: string
}

export const plainPage = ({ title, text, home, language }: PlainTexts): string => `<!doctype html>
<html lang="${escapeHtml(language)}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${escapeHtml(title)}</title><style>${STYLE}</style></head>
<body><h1>${escapeHtml(title)}</h1><p>${escapeHtml(text)}</p><p><a href="/">${escapeHtml(home)}</a></p></body></html>
`
