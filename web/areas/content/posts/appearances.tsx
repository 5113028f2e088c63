/** The addresses that show a post, each with its position there. */
import { Link } from 'react-router'
import type { Appearance } from '../../../../contract/posts.ts'
import { useRead } from '../../../api/queries.ts'
import { ordinal } from '../../../shared/words/format.ts'
import { words } from '../words.ts'

const text = words.posts.appearances

export function Appearances({ slug }: { slug: string }) {
  const places = useRead(
    'GET /api/post/appearances',
    { query: { slug } },
    { placeholderData: (known) => known },
  )
  const { data } = places
  return (
    <section aria-label={text.label}>
      <h2 className="part">{data && !data.isPublic ? text.later : text.now}</h2>
      {places.error ? (
        <p className="failed">{places.error.message}</p>
      ) : !data ? (
        <p className="muted small">{text.loading}</p>
      ) : (
        <>
          {data.found.length === 0 ? <p className="muted small">{text.none}</p> : null}
          <ul className="places">
            {data.found.map((one) => (
              <li key={`${one.route} ${one.data} ${one.path}`}>
                <Link
                  to={`/walk?path=${encodeURIComponent(one.path)}${data.isPublic ? '' : '&as=author'}`}
                  title={text.walk(one.route, one.query)}
                >
                  <span className="plate">{one.path}</span>
                </Link>{' '}
                <span className="muted">{describePlace(one)}</span>
              </li>
            ))}
          </ul>
          {data.beside.length > 0 ? (
            <p className="muted small">
              {text.beside(data.beside.map((one) => text.besidePlace(one.data, one.route)))}
            </p>
          ) : null}
        </>
      )}
    </section>
  )
}

function describePlace({ how, place, of, page }: Appearance): string {
  if (how === 'itself') return text.itself
  const position = ordinal(place)
  if (page !== null) return page === 1 ? text.onFirst(position) : text.onPage(page, position)
  return of === 0 ? position : text.of(position, of)
}
