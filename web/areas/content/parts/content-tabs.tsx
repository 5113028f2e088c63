/** The kinds of content, each with its number. */
import { NavLink } from 'react-router'
import { useRead } from '../../../api/queries.ts'
import { useLastAddresses } from '../../../shared/frame/last-address.ts'
import { words } from '../words.ts'

const KINDS = ['posts', 'pages', 'categories', 'tags', 'authors', 'images', 'html'] as const
export type Kind = (typeof KINDS)[number]

const text = words.kinds

export function ContentTabs() {
  const counts = useRead('GET /api/content', {})
  const last = useLastAddresses((state) => state.of)
  return (
    <nav className="kinds" aria-label={text.label}>
      {KINDS.map((kind) => (
        <NavLink key={kind} to={last[`/content/${kind}`] ?? `/content/${kind}`}>
          {text[kind]}
          <span>
            {kind === 'html' ? text.allowedHtml : (counts.data?.[kind].toLocaleString('en-GB') ?? '…')}
          </span>
        </NavLink>
      ))}
    </nav>
  )
}
