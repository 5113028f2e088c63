/** Finds the page of a listing on which a comment is. */
import { pageText } from '../../../core/paging/numbered.ts'
import { queryInForce } from '../../publish/site.ts'
import { placeOfRow } from '../../store/statements/run-query.ts'
import { PageData } from '../page-data.ts'
import type { PageRequest, RouteInForce } from '../page-request.ts'

/** The parameter of a comment's permanent address. */
export const COMMENT_PARAMETER = 'comment'

/**
 * Returns the parameters of the page that shows a comment; null if none does.
 * @param page of the post, at any of its pages of comments
 */
export async function pageOfComment(
  page: PageRequest,
  inForce: RouteInForce,
  id: number,
): Promise<Record<string, string | null> | null> {
  const { site, ports, request } = page
  const data = new PageData(page, inForce)
  for (const name of Object.keys(inForce.route.data ?? {})) {
    const { take, from } = data.queryOf(name).meaning
    if (from !== 'comments' || take.kind !== 'pages' || take.by !== 'number') continue
    const parameters = await data.parametersFor(name)
    const query = queryInForce(ports.database, site, data.queryOf(name), parameters)
    const compiled = query.compiled[request.as]
    const place = await placeOfRow(ports.pool, { name: query.name, compiled, parameters }, id)
    if (place !== undefined) return { [take.parameter]: pageText(Math.floor(place / take.size) + 1) }
  }
  return null
}
