import type { WalkRecord } from '../../../server/workbench/contract.ts'

/** True where what came back is for programs, not a page. */
export const isData = ({ response }: WalkRecord): boolean =>
  /^application\/(problem\+)?json\b/.test(response.headers['content-type'] ?? '')
