/** The documents with which comments on a post start: those of the demo blog. */
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { COMMENT_PARTS } from '../../../core/blog/comments-start.ts'

/**
 * Returns their texts by path.
 * @param shipped the folder of the demo blog
 */
export const commentParts = async (shipped: string): Promise<Map<string, string>> =>
  new Map(
    await Promise.all(
      COMMENT_PARTS.map(async (path) => [path, await readFile(join(shipped, path), 'utf8')] as const),
    ),
  )
