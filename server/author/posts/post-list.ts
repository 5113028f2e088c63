/** Posts as an author looks for them: by state, words, category, author, tag; sorted, a page at a time. */
import type { DataSource, SelectQueryBuilder } from 'typeorm'
import type { PostSort, PostState } from '../../../core/shapes/content-kinds.ts'
import { PostEntity } from '../../store/entities/content.ts'

export interface PostFilter {
  /** Words of title and text, the last one perhaps not yet whole; or any part of a title. */
  search?: string | undefined
  state?: PostState | undefined
  /** Slugs. */
  category?: string | undefined
  author?: string | undefined
  tag?: string | undefined
  sort?: PostSort | undefined
  /** 1-based. */
  page?: number | undefined
  size?: number | undefined
}

export interface ListedPost {
  id: number
  slug: string
  title: string
  state: PostState
  publishedAt: Date | null
  updatedAt: Date
  version: number
  category: { slug: string; name: string } | null
  author: { slug: string; name: string } | null
  /** Comments that readers see. */
  comments: number
  wordCount: number
  image: string | null
}

export interface PostListing {
  posts: ListedPost[]
  total: number
  /** True when there are more than `total`. */
  isMore: boolean
  /** How many there are of each state, whatever state is asked for; null when there are more than are counted. */
  states: Record<PostState, number> | null
}

/** Posts that a search finds are counted up to here: a word that is everywhere says nothing by its number. */
const COUNTED = 10_000

/** SQL of a state; the database's clock decides. */
const STATE_SQL: Readonly<Record<PostState, string>> = {
  draft: 'post.published_at IS NULL',
  scheduled: 'post.published_at > now()',
  published: 'post.published_at <= now()',
}
const stateSql = (table = 'post') =>
  `CASE WHEN ${table}.published_at IS NULL THEN 'draft' WHEN ${table}.published_at > now() THEN 'scheduled' ELSE 'published' END`

/** What is not published yet comes first where the newest do. */
const ORDER: Readonly<Record<string, { column: string; nulls?: 'NULLS FIRST' | 'NULLS LAST' }>> = {
  published: { column: 'post.publishedAt' },
  updated: { column: 'post.updatedAt' },
  title: { column: 'post.title' },
}

/** @param counted up to how many finds of a search are counted */
export async function listPosts(
  database: DataSource,
  filter: PostFilter,
  counted = COUNTED,
): Promise<PostListing> {
  const { state, sort = '-published', page = 1, size = 25 } = filter
  const isEverywhere =
    wordsQuery(filter.search ?? '') !== '' && (await countUpTo(database, filter, counted)) > counted
  const matching = () =>
    applyFilter(
      database.getRepository(PostEntity).createQueryBuilder('post'),
      filter,
      isEverywhere ? 'everywhere' : 'rare',
    )
  const states = isEverywhere ? null : await countStates(matching())
  const found = matching()
  if (state) found.andWhere(STATE_SQL[state])
  const descending = sort.startsWith('-')
  const { column } = ORDER[sort.replace('-', '')] ?? { column: 'post.publishedAt' }
  found
    .leftJoin('post.category', 'category')
    .leftJoin('post.author', 'author')
    .leftJoin('post.image', 'image')
    .select('post.id', 'id')
    .addSelect('post.slug', 'slug')
    .addSelect('post.title', 'title')
    .addSelect(stateSql(), 'state')
    .addSelect('post.publishedAt', 'publishedAt')
    .addSelect('post.updatedAt', 'updatedAt')
    .addSelect('post.version', 'version')
    .addSelect('post.wordCount', 'wordCount')
    .addSelect('category.slug', 'category')
    .addSelect('category.name', 'categoryName')
    .addSelect('author.slug', 'author')
    .addSelect('author.name', 'authorName')
    .addSelect('image.name', 'image')
    .addSelect(
      "(SELECT count(*)::int FROM comment shown WHERE shown.post_id = post.id AND shown.state = 'shown')",
      'comments',
    )
    .orderBy(column, descending ? 'DESC' : 'ASC', descending ? 'NULLS FIRST' : 'NULLS LAST')
    .addOrderBy('post.id', descending ? 'DESC' : 'ASC')
    .offset((page - 1) * size)
    .limit(size)
  const rows = await found.getRawMany<RawPost>()
  return {
    posts: rows.map(({ category, categoryName, author, authorName, ...row }) => ({
      ...row,
      category: category === null ? null : { slug: category, name: categoryName ?? '' },
      author: author === null ? null : { slug: author, name: authorName ?? '' },
    })),
    total:
      states === null ? counted : state ? states[state] : states.draft + states.scheduled + states.published,
    isMore: states === null,
    states,
  }
}

async function countStates(matching: SelectQueryBuilder<PostEntity>): Promise<Record<PostState, number>> {
  const counted = await matching
    .select(`count(*) FILTER (WHERE ${STATE_SQL.draft})::int`, 'draft')
    .addSelect(`count(*) FILTER (WHERE ${STATE_SQL.scheduled})::int`, 'scheduled')
    .addSelect(`count(*) FILTER (WHERE ${STATE_SQL.published})::int`, 'published')
    .getRawOne<Record<PostState, number>>()
  return counted ?? { draft: 0, scheduled: 0, published: 0 }
}

/** How many posts have the words, at least; as far as it takes to know that they are more than are counted. */
async function countUpTo(database: DataSource, filter: PostFilter, counted: number): Promise<number> {
  const some = applyFilter(database.getRepository(PostEntity).createQueryBuilder('post'), filter, 'words')
    .select('1')
    .limit(counted + 1)
  if (filter.state) some.andWhere(STATE_SQL[filter.state])
  const [sql, values] = some.getQueryAndParameters()
  const [row] = await database.query<{ count: number }[]>(
    `SELECT count(*)::int AS count FROM (${sql}) AS found`,
    values,
  )
  return row?.count ?? 0
}

interface RawPost extends Omit<ListedPost, 'category' | 'author'> {
  category: string | null
  categoryName: string | null
  author: string | null
  authorName: string | null
}

function applyFilter(
  builder: SelectQueryBuilder<PostEntity>,
  { search = '', category, author, tag }: PostFilter,
  how: 'rare' | 'everywhere' | 'words',
): SelectQueryBuilder<PostEntity> {
  const text = search.trim()
  if (text !== '') {
    const words = wordsQuery(text)
    // The expression is the index's own.
    const inWords = `to_tsvector('simple', title || ' ' || body) @@ to_tsquery('simple', :words)`
    const own = inWords.replace(/title|body/g, 'post.$&')
    const inTitle = 'title ILIKE :part'
    const conditions = {
      // Found first, each by its own index, and then sorted: else the planner may walk all posts in order, hoping to
      // meet a page of matches soon.
      rare: `post.id IN (SELECT id FROM post WHERE ${inTitle}${words === '' ? '' : ` UNION SELECT id FROM post WHERE ${inWords}`})`,
      // With a word that is everywhere, walking in order is just what it should do.
      everywhere: `(post.${inTitle} OR ${own})`,
      // The index alone tells: for counting, at least so many.
      words: own,
    }
    builder.andWhere(conditions[how], { part: `%${text.replace(/[\\%_]/g, '\\$&')}%`, words })
  }
  if (category !== undefined)
    builder.andWhere('post.categoryId = (SELECT id FROM category WHERE slug = :category)', { category })
  if (author !== undefined)
    builder.andWhere('post.authorId = (SELECT id FROM author WHERE slug = :author)', { author })
  if (tag !== undefined)
    builder.andWhere(
      'post.id IN (SELECT link.post_id FROM post_tag link JOIN tag ON tag.id = link.tag_id WHERE tag.slug = :tag)',
      { tag },
    )
  return builder
}

/** All words, the last one as a beginning: `blunt & saw:*`; nothing of the text can be an operator. */
export function wordsQuery(text: string): string {
  const words = text.match(/[\p{L}\p{N}]+/gu) ?? []
  return words.map((word, index) => `'${word}'${index === words.length - 1 ? ':*' : ''}`).join(' & ')
}
