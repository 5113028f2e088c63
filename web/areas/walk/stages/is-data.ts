/** The kind of a walked response. */
import type { WalkRecord } from '../../../../contract/walk-record.ts'

/** Returns whether the response is data for programs rather than a page. */
export const isData = ({ response }: WalkRecord): boolean => {
  const type = response.headers['content-type']
  return type !== undefined && !type.startsWith('text/html')
}

/** Returns whether it is an image. */
export const isImage = ({ response }: WalkRecord): boolean =>
  /^image\//.test(response.headers['content-type'] ?? '')

/** Returns whether it is JSON. */
export const isJson = ({ response }: WalkRecord): boolean =>
  /^application\/(\w+\+)?json\b/.test(response.headers['content-type'] ?? '')

/** Returns whether it is the data of a route as JSON, rather than a feed. */
export const isDataOfRoute = ({ response }: WalkRecord): boolean =>
  /^application\/json\b/.test(response.headers['content-type'] ?? '')
