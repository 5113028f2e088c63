/** Where a post appears: every address that shows it, with its place there. */
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import type { Appearance } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { ordinal, plural } from '../../../shared/words/words.ts'

export function Appearances({ slug, version }: { slug: string; version: number }) {
  const places = useQuery({
    queryKey: ['appearances', slug, version],
    queryFn: () => call('GET /api/post/appearances', { query: { slug } }),
    placeholderData: (known) => known,
  })
  const { data } = places
  return (
    <section aria-label="Where it appears">
      <h2 className="part">
        {data && !data.isPublic ? 'Where it would appear, published now' : 'Where it appears now'}
      </h2>
      {places.error ? (
        <p className="failed">{places.error.message}</p>
      ) : !data ? (
        <p className="muted small">Asking the blog …</p>
      ) : (
        <>
          {data.found.length === 0 ? <p className="muted small">At no address: no route shows it.</p> : null}
          <ul className="places">
            {data.found.map((one) => (
              <li key={`${one.route} ${one.data} ${one.path}`}>
                <Link
                  to={`/walk?path=${encodeURIComponent(one.path)}${data.isPublic ? '' : '&as=author'}`}
                  title={`Walk it: route “${one.route}”, ${one.query}`}
                >
                  <span className="plate">{one.path}</span>
                </Link>{' '}
                <span className="muted">{placeInWords(one)}</span>
              </li>
            ))}
          </ul>
          {data.beside.length > 0 ? (
            <p className="muted small">
              Pages of other posts may show it too:{' '}
              {data.beside.map((one) => `“${one.data}” of route ${one.route}`).join(', ')}.
            </p>
          ) : null}
        </>
      )}
    </section>
  )
}

function placeInWords({ how, place, of, page }: Appearance): string {
  if (how === 'itself') return 'the post itself'
  if (page !== null)
    return page === 1 ? `${ordinal(place)} on the first page` : `page ${page}, ${ordinal(place)}`
  return of === 0 ? ordinal(place) : `${ordinal(place)} of the first ${plural(of, 'post')}`
}
