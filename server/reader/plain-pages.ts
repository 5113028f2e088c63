/** Plain pages that need neither templates nor scripts and show no internals. */
import { createHash } from 'node:crypto'
import { escapeHtml } from '../../core/content/html/safe-html.ts'

const STYLE =
  'body{max-width:34rem;margin:18vh auto 0;padding:0 1.5rem;font:1.125rem/1.6 system-ui,sans-serif;color:#23262d;background:#fbfaf6}' +
  'h1{font-size:1.75rem;line-height:1.2;margin:0 0 .5rem}a{color:#a03c1c}p{overflow-wrap:anywhere}' +
  'form{display:flex;flex-wrap:wrap;gap:.75rem}button{font:inherit;font-size:1rem;padding:.4rem 1rem;border:1px solid currentColor;border-radius:.25rem;background:none;color:inherit;cursor:pointer}' +
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
  /** Buttons of a form, each with the value of `do`. */
  buttons?: readonly (readonly [value: string, words: string])[]
}

export const plainPage = ({
  title,
  text,
  home,
  language,
  buttons = [],
}: PlainTexts): string => `<!doctype html>
<html lang="${escapeHtml(language)}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${escapeHtml(title)}</title><style>${STYLE}</style></head>
<body><main><h1>${escapeHtml(title)}</h1><p>${escapeHtml(text)}</p>${form(buttons)}<p><a href="/">${escapeHtml(home)}</a></p></main></body></html>
`

const form = (buttons: readonly (readonly [string, string])[]): string =>
  buttons.length === 0
    ? ''
    : `<form method="post">${buttons.map(([value, words]) => `<button name="do" value="${escapeHtml(value)}">${escapeHtml(words)}</button>`).join('')}</form>`
