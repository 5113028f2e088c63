/** The kind of a walked response. */
import type { WalkRecord } from '../../../../contract/walk-record.ts'

/** Returns whether the response is data for programs rather than a page. */
export const isData = ({ response }: WalkRecord): boolean =>
  /^application\/(problem\+)?json\b/.test(response.headers['content-type'] ?? '')
