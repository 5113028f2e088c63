/** Requests of readers, for tests. */
import { internalRequest, type BlogRequest } from '../reader/request.ts'

/** Returns a request that sends a form. */
export const formRequest = (
  target: string,
  fields: Readonly<Record<string, string>>,
  { origin = 'own', ...more }: Partial<BlogRequest> = {},
): BlogRequest => ({
  ...internalRequest(target, { method: 'POST' }),
  origin,
  form: () => Promise.resolve({ ok: true, fields: { ...fields } }),
  ...more,
})
