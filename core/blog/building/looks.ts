/**
 * The two looks of a new blog. They share one stylesheet, whose colours and fonts are custom properties (tokens); a look sets
 * the tokens and adds a few rules.
 */
import type { Look } from '../../shapes/building.ts'

const TOKENS = /:root \{[^}]*\}\n@media \(prefers-color-scheme: dark\) \{\n {2}:root \{[^}]*\}/
const COMMENT = /^\/\*[^*]*\*\//

const HEADER = `/* The blog’s stylesheet. Its tokens are the custom properties of :root; light and dark, phone to desktop. */`

const COMMON_RULES = `
/* One column of text. */
.narrow { padding-top: 34px; padding-bottom: 40px; }
.narrow > * { max-width: 720px; }
/* A post: its table of contents, and who wrote it. */
.contents { border-left: 3px solid var(--line); padding: 2px 0 2px 16px; margin: 0 0 26px; font: 500 15px/1.5 var(--sans); }
.contents ol { margin: 0; padding-left: 1.3em; }
.author { margin: 34px 0 0; }
.author p { margin: 0 0 .4em; }
`

const LEDGER_TOKENS = `:root {
  --ground: #ffffff; --ink: #16211f; --muted: #55625f; --line: #cfd9d6; --rust: #0a5a55; --panel: #eef4f2; --error: #a3261b;
  --sans: Literata, Kosugi, Georgia, serif; --serif: Overpass, Kosugi, system-ui, sans-serif; --mono: 'Overpass Mono', ui-monospace, monospace;
}
@media (prefers-color-scheme: dark) {
  :root { --ground: #121a19; --ink: #e4ece9; --muted: #a3b1ad; --line: #2e3b38; --rust: #7fd0c6; --panel: #1a2523; --error: #ff9c8f; }`

const LEDGER_RULES = `
/* One narrow column, ruled like a ledger: the title over a double line, pictures on the right. */
.wrap { max-width: 760px; }
.top { border-bottom: 3px double var(--ink); padding: 30px 0 16px; }
.top .wrap { flex-direction: column; align-items: center; }
.brand { font-weight: 500; font-size: 34px; letter-spacing: 0; }
.top nav { justify-content: center; }
.hero { background: none; text-align: center; border-bottom: 0; padding: 40px 0 8px; }
.hero h1 { font-weight: 500; font-size: 30px; }
.section { text-transform: none; letter-spacing: 0; font-weight: 500; font-size: 21px; color: var(--ink); border-bottom: 1px solid var(--ink); padding-bottom: 8px; margin-top: 34px; }
.card { grid-template-columns: 1fr 120px; border-bottom-style: dotted; }
.card .picture { order: 2; }
.card .picture img { width: 120px; height: 90px; border-radius: 0; }
.card h2 { font-weight: 600; font-size: 24px; }
.kick { text-transform: none; letter-spacing: 0; font-weight: 600; font-size: 14px; }
.post h1 { font-weight: 500; text-align: center; }
.post header { text-align: center; padding-top: 34px; }
.post .lead { border-radius: 0; }
.pager { justify-content: center; border-top: 1px solid var(--ink); padding-top: 16px; }
.pager a, .pager b { border-radius: 0; }
.foot { background: none; text-align: center; border-top: 3px double var(--ink); }
@media (max-width: 520px) {
  .card { grid-template-columns: 1fr 84px; }
  .card .picture img { width: 84px; height: 64px; }
}
`

/** @param stylesheet with the tokens of the first look */
export function stylesheetOf(look: Look, stylesheet: string): string {
  const bench = `${stylesheet.replace(COMMENT, HEADER).trimEnd()}\n${COMMON_RULES}`
  return look === 'bench' ? bench : bench.replace(TOKENS, LEDGER_TOKENS).trimEnd() + `\n${LEDGER_RULES}`
}
