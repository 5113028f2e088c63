/** The listing of a category, tag or author, as readers see it. */
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import type { Term } from '../../../../contract/terms.ts'
import type { TermKind } from '../../../../core/shapes/content-kinds.ts'
import { call } from '../../../api/client.ts'
import { useSession } from '../../../shared/frame/session.ts'
import { words } from '../words.ts'
import { WrittenPage } from '../writing/written-page.tsx'

const text = words.terms

export function TermPage({ kind, term }: { kind: TermKind; term: Term }) {
  const session = useSession()
  const { address } = term
  // A walk is a record of one request, so it has no key of its own operation: every change of the term is a new page.
  const walked = useQuery({
    queryKey: ['term page', address, term],
    queryFn: () => call('GET /api/walk', { query: { path: address ?? '/' } }),
    enabled: address !== null,
    placeholderData: keepPreviousData,
  })
  if (address === null)
    return (
      <div className="beside">
        <div className="quiet small">
          {text.noListing(kind)}{' '}
          <Link className="link" to="/routes">
            {text.addRoute}
          </Link>
        </div>
      </div>
    )
  const { response } = walked.data ?? {}
  const policy = response?.headers['content-security-policy']
  if (!response || policy === undefined || !session.data)
    return (
      <div className="beside">
        <div className="quiet small">{walked.error?.message ?? text.loadingPage}</div>
      </div>
    )
  return (
    <WrittenPage
      html={response.body}
      policy={policy}
      address={session.data.blog + address}
      note={text.asReaders(address, response.status)}
      isPreview={false}
    />
  )
}
