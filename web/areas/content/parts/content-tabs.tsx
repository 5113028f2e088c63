/** What there is of content, each kind a place of its own. */
import { useQuery } from '@tanstack/react-query'
import { NavLink } from 'react-router'
import { call } from '../../../api/client.ts'

export const KINDS = ['posts', 'pages', 'categories', 'tags', 'authors', 'images', 'html'] as const
export type Kind = (typeof KINDS)[number]

const LABELS: Readonly<Record<Kind, string>> = {
  posts: 'Posts',
  pages: 'Pages',
  categories: 'Categories',
  tags: 'Tags',
  authors: 'Authors',
  images: 'Images',
  html: 'HTML',
}

export function ContentTabs() {
  const counts = useQuery({ queryKey: ['posts', 'counts'], queryFn: () => call('GET /api/content', {}) })
  return (
    <nav className="kinds" aria-label="Kinds of content">
      {KINDS.map((kind) => (
        <NavLink key={kind} to={`/content/${kind}`}>
          {LABELS[kind]}
          <span>{kind === 'html' ? 'allowed' : (counts.data?.[kind].toLocaleString('en-GB') ?? '…')}</span>
        </NavLink>
      ))}
    </nav>
  )
}
