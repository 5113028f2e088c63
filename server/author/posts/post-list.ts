/** The author's list of posts: filtered by state, words, category, author and tag, sorted and paged. */
import type { DataSource, SelectQueryBuilder } from 'typeorm'
import type { PostSort, PostState } from '../../../core/shapes/content-kinds.ts'
import { PostEntity } from '../../store/entities/content.ts'
import {
  SHOWN_COMMENTS,
  STATE_EXPRESSION,
  STATE_SQL,
  searchCondition,
  wordsQuery,
} from '../../store/content/posts.ts'

export interface PostFilter {
  /** Words of the title and the text, the last of which may be incomplete, or a part of a title. */
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
  /** The number of comments that readers see. */
  comments: number
  wordCount: number
  image: string | null
}

export interface PostListing {
  posts: ListedPost[]
  total: number
  /** Whether there are more than `total`. */
  isMore: boolean
  /** The number of posts of each state, regardless of the filter by state; null if there are too many to count. */
  states: Record<PostState, number> | null
}

/** Matches of a search are counted up to this number. */
const COUNT_LIMIT = 10_000

const ORDER: Readonly<Record<string, string>> = {
  published: 'post.publishedAt',
  updated: 'post.updatedAt',
  title: 'post.title',
}

/** Returns a page of the list. @param countLimit the number up to which matches of a search are counted */
export async function listPosts(
  database: DataSource,
  filter: PostFilter,
  countLimit = COUNT_LIMIT,
): Promise<PostListing> {
  const { state, sort = '-published', page = 1, size = 25 } = filter
  const isCommon =
    wordsQuery(filter.search ?? '') !== '' && (await countUpTo(database, filter, countLimit)) > countLimit
  const matching = () =>
    applyFilter(
      database.getRepository(PostEntity).createQueryBuilder('post'),
      filter,
      isCommon ? 'common' : 'rare',
    )
  const states = isCommon ? null : await countStates(matching())
  const found = matching()
  if (state) found.andWhere(STATE_SQL[state])
  const descending = sort.startsWith('-')
  const column = ORDER[sort.replace('-', '')] ?? 'post.publishedAt'
  found
    .leftJoin('post.category', 'category')
    .leftJoin('post.author', 'author')
    .leftJoin('post.image', 'image')
    .select('post.id', 'id')
    .addSelect('post.slug', 'slug')
    .addSelect('post.title', 'title')
    .addSelect(STATE_EXPRESSION, 'state')
    .addSelect('post.publishedAt', 'publishedAt')
    .addSelect('post.updatedAt', 'updatedAt')
    .addSelect('post.version', 'version')
    .addSelect('post.wordCount', 'wordCount')
    .addSelect('category.slug', 'category')
    .addSelect('category.name', 'categoryName')
    .addSelect('author.slug', 'author')
    .addSelect('author.name', 'authorName')
    .addSelect('image.name', 'image')
    .addSelect(SHOWN_COMMENTS, 'comments')
    // Drafts come first where the newest posts do.
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
      states === null
        ? countLimit
        : state
          ? states[state]
          : states.draft + states.scheduled + states.published,
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

/** Counts the posts that contain the words, up to one more than the limit. */
async function countUpTo(database: DataSource, filter: PostFilter, limit: number): Promise<number> {
  const some = applyFilter(database.getRepository(PostEntity).createQueryBuilder('post'), filter, 'words')
    .select('1')
    .limit(limit + 1)
  if (filter.state) some.andWhere(STATE_SQL[filter.state])
  const row = await database
    .createQueryBuilder()
    .select('count(*)::int', 'count')
    .from(`(${some.getQuery()})`, 'found')
    .setParameters(some.getParameters())
    .getRawOne<{ count: number }>()
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
  how: 'rare' | 'common' | 'words',
): SelectQueryBuilder<PostEntity> {
  const text = search.trim()
  if (text !== '') {
    const condition = searchCondition(text, how)
    builder.andWhere(condition.sql, condition.parameters)
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
