/** The listing of a category, tag or author, as readers see it. */
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import type { Term } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { useSession } from '../../../shared/frame/session.ts'
import type { TermKind } from '../../../../core/shapes/content-kinds.ts'
import { WrittenPage } from '../writing/written-page.tsx'

export function TermPage({ kind, term }: { kind: TermKind; term: Term }) {
  const session = useSession()
  const { address } = term
  const walked = useQuery({
    // Asked anew after every change of the content.
    queryKey: ['terms', 'page', address, term.version, term.posts],
    queryFn: () => call('GET /api/walk', { query: { path: address ?? '/' } }),
    enabled: address !== null,
    placeholderData: (known) => known,
  })
  if (address === null)
    return (
      <div className="beside">
        <div className="quiet small">
          No route lists the posts of {kind === 'author' ? 'an author' : `a ${kind}`} yet.{' '}
          <Link className="link" to="/routes">
            Add one under Routes
          </Link>
        </div>
      </div>
    )
  const record = walked.data
  if (!record || !session.data)
    return (
      <div className="beside">
        <div className="quiet small">{walked.error?.message ?? 'Asking the blog …'}</div>
      </div>
    )
  return (
    <WrittenPage
      html={record.response.body}
      path={address}
      origin={session.data.blog}
      readers={`${address}, as readers see it${record.response.status === 200 ? '' : `: ${record.response.status}`}`}
      isPreview={false}
    />
  )
}
