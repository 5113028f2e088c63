/** Requests of readers, for tests. */
import { internalRequest, type BlogRequest } from '../reader/request.ts'

/** The origin of a request from a page of the blog itself. */
const SAME_ORIGIN: BlogRequest['origin'] = {
  origin: 'http://b.test',
  host: 'b.test',
  fetchSite: 'same-origin',
}

/** Returns a request that sends a form. */
export const formRequest = (
  target: string,
  fields: Readonly<Record<string, string>>,
  { origin = SAME_ORIGIN, ...more }: Partial<BlogRequest> = {},
): BlogRequest => ({
  ...internalRequest(target, { method: 'POST' }),
  origin,
  form: () => Promise.resolve({ ok: true, fields: { ...fields } }),
  ...more,
})
