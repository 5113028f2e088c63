import type { WalkRecord } from '../../../../contract/operations.ts'

/** True where what came back is for programs, not a page. */
export const isData = ({ response }: WalkRecord): boolean =>
  /^application\/(problem\+)?json\b/.test(response.headers['content-type'] ?? '')
