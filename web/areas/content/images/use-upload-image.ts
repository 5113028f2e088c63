/** Uploads an image. */
import type { AnswerOf } from '../../../../contract/operations.ts'
import { useWrite } from '../../../api/queries.ts'

export type Uploaded = AnswerOf<'PUT /api/image'>

/** Returns a function that uploads an image. Its `replaces` is the name of the image that it replaces. */
export function useUploadImage(): (file: File, replaces?: string) => Promise<Uploaded> {
  const write = useWrite()
  return async (file, replaces) =>
    write('PUT /api/image', {
      query: { file: file.name, ...(replaces === undefined ? {} : { replaces }) },
      body: new Uint8Array(await file.arrayBuffer()),
    })
}
