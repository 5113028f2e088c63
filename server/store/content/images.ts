/** Images with everything that uses them. */
import type { DataSource } from 'typeorm'
import { ImageEntity } from '../entities/content.ts'

export interface ImageUse {
  /** `picture`: the image of a post. `text`: in a text. `definition`: in a template or an asset. */
  how: 'picture' | 'text' | 'definition'
  kind: 'post' | 'page' | 'document'
  /** The slug, or the path. */
  name: string
  title: string
}

export interface ListedImage {
  name: string
  type: string
  width: number
  height: number
  /** The size of the file. */
  bytes: number
  sha256: string
  addedAt: Date
  uses: ImageUse[]
}

/** Names of images in a text: `/media/NAME`. */
const MENTIONED = String.raw`/media/([a-z0-9][a-z0-9.-]*\.[a-z0-9]+)`

/** Lists all images by name, with everything that uses each. */
export async function imagesWithUses(database: DataSource): Promise<ListedImage[]> {
  const [rows, used] = await Promise.all([
    database.query<Omit<ListedImage, 'uses'>[]>(
      `SELECT name, type, width, height, octet_length(bytes) AS bytes, sha256, added_at AS "addedAt" FROM image ORDER BY name`,
    ),
    database.query<(ImageUse & { image: string })[]>(
      `SELECT image.name AS image, 'picture' AS how, 'post' AS kind, post.slug AS name, post.title
         FROM post JOIN image ON image.id = post.image_id
       UNION SELECT found[1], 'text', 'post', slug, title FROM post, regexp_matches(body, $1, 'g') found WHERE body LIKE '%/media/%'
       UNION SELECT found[1], 'text', 'page', path, title FROM page, regexp_matches(body, $1, 'g') found WHERE body LIKE '%/media/%'
       UNION SELECT found[1], 'definition', 'document', path, path FROM document, regexp_matches(text, $1, 'g') found WHERE text LIKE '%/media/%'
       ORDER BY how, title`,
      [MENTIONED],
    ),
  ])
  const uses = new Map<string, ImageUse[]>()
  for (const { image, ...use } of used) uses.set(image, [...(uses.get(image) ?? []), use])
  return rows.map((row) => ({ ...row, uses: uses.get(row.name) ?? [] }))
}

/** Lists all images by name, with the number of posts that have each as their image. */
export const imagesWithPosts = (
  database: DataSource,
): Promise<{ name: string; width: number; height: number; posts: number }[]> =>
  database
    .getRepository(ImageEntity)
    .createQueryBuilder('image')
    .select('image.name', 'name')
    .addSelect('image.width', 'width')
    .addSelect('image.height', 'height')
    .addSelect('(SELECT count(*)::int FROM post WHERE post.image_id = image.id)', 'posts')
    .orderBy('image.name')
    .getRawMany()
