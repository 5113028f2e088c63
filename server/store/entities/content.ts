/**
 * The tables of the blog's content: posts, pages, categories, tags, authors, comments and images.
 *
 * What a deletion does to other rows is declared on each reference: `RESTRICT` where the row must be moved or emptied
 * first, `CASCADE` for rows that mean nothing on their own, `SET NULL` where a row is complete without the other.
 */
import {
  Check,
  Column,
  Entity,
  Index,
  JoinColumn,
  JoinTable,
  ManyToMany,
  ManyToOne,
  PrimaryGeneratedColumn,
  Unique,
  type Relation,
} from 'typeorm'

/** The same condition as in the migration. */
const SLUG_CHECK = "slug ~ '^[a-z0-9]+(-[a-z0-9]+)*$' AND length(slug) <= 100"

@Entity({ name: 'category' })
@Check('category_slug_check', SLUG_CHECK)
@Check('category_parent_check', 'parent_id <> id')
@Unique('category_slug_key', ['slug'])
export class CategoryEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'category_pk' }) id: number
  @Column({ type: 'int', name: 'parent_id', nullable: true }) parentId: number | null
  /** Categories below it are moved first. The database also guards the tree against cycles. */
  @ManyToOne(() => CategoryEntity, { onDelete: 'RESTRICT' })
  @JoinColumn({ name: 'parent_id', foreignKeyConstraintName: 'category_parent_fk' })
  parent: Relation<CategoryEntity> | null
  @Column({ type: 'text' }) name: string
  @Column({ type: 'text' }) slug: string
  @Column({ type: 'int', default: 0 }) position: number
  /** Grows with every save. A save of an older version is a conflict. */
  @Column({ type: 'int', default: 1 }) version: number
}

@Entity({ name: 'tag' })
@Check('tag_slug_check', SLUG_CHECK)
@Unique('tag_slug_key', ['slug'])
export class TagEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'tag_pk' }) id: number
  @Column({ type: 'text' }) name: string
  @Column({ type: 'text' }) slug: string
  /** Grows with every save. A save of an older version is a conflict. */
  @Column({ type: 'int', default: 1 }) version: number
}

@Entity({ name: 'author' })
@Check('author_slug_check', SLUG_CHECK)
@Unique('author_slug_key', ['slug'])
export class AuthorEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'author_pk' }) id: number
  @Column({ type: 'text' }) name: string
  @Column({ type: 'text' }) slug: string
  @Column({ type: 'text', default: '' }) about: string
  /** Grows with every save. A save of an older version is a conflict. */
  @Column({ type: 'int', default: 1 }) version: number
}

@Entity({ name: 'image' })
@Check('image_size_check', 'width > 0 AND height > 0')
@Unique('image_name_key', ['name'])
export class ImageEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'image_pk' }) id: number
  @Column({ type: 'text' }) name: string
  @Column({ type: 'text' }) type: string
  @Column({ type: 'int' }) width: number
  @Column({ type: 'int' }) height: number
  @Column({ type: 'bytea' }) bytes: Buffer
  @Column({ type: 'text' }) sha256: string
  @Column({ type: 'timestamptz', name: 'added_at', default: () => 'now()' }) addedAt: Date
}

@Entity({ name: 'post' })
@Check('post_slug_check', SLUG_CHECK)
@Unique('post_slug_key', ['slug'])
@Index('post_slug_trigram_idx', { synchronize: false })
@Index('post_title_trigram_idx', { synchronize: false })
@Index('post_words_idx', { synchronize: false })
@Index('post_search_idx', { synchronize: false })
@Index('post_updated_idx', ['updatedAt', 'id'])
@Index('post_title_idx', ['title', 'id'])
@Index('post_author_idx', ['authorId', 'publishedAt', 'id'])
@Index('post_published_idx', ['publishedAt', 'id'])
@Index('post_category_idx', ['categoryId', 'publishedAt', 'id'])
export class PostEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'post_pk' }) id: number
  @Column({ type: 'text' }) title: string
  @Column({ type: 'text' }) slug: string
  /** As written by the author; null if the excerpt is derived from the text. */
  @Column({ type: 'text', name: 'written_excerpt', nullable: true }) writtenExcerpt: string | null
  /** What listings show: the written excerpt, or the start of the text. */
  @Column({ type: 'text' }) excerpt: string
  @Column({ type: 'text' }) body: string
  @Column({ type: 'text' }) html: string
  /** The words by which readers find it. A trigger fills it in. */
  @Column({ type: 'tsvector', nullable: true, select: false, insert: false, update: false }) search?: string
  /** The pipeline that rendered the HTML. */
  @Column({ type: 'text' }) pipeline: string
  @Column({ type: 'int', name: 'word_count' }) wordCount: number
  @Column({ type: 'int', name: 'category_id', nullable: true }) categoryId: number | null
  /** Posts get another category, or none, first. */
  @ManyToOne(() => CategoryEntity, { onDelete: 'RESTRICT' })
  @JoinColumn({ name: 'category_id', foreignKeyConstraintName: 'post_category_fk' })
  category: Relation<CategoryEntity> | null
  @Column({ type: 'int', name: 'author_id', nullable: true }) authorId: number | null
  /** Posts get another author, or none, first. */
  @ManyToOne(() => AuthorEntity, { onDelete: 'RESTRICT' })
  @JoinColumn({ name: 'author_id', foreignKeyConstraintName: 'post_author_fk' })
  author: Relation<AuthorEntity> | null
  @Column({ type: 'int', name: 'image_id', nullable: true }) imageId: number | null
  /** A post is complete without its image. */
  @ManyToOne(() => ImageEntity, { onDelete: 'SET NULL' })
  @JoinColumn({ name: 'image_id', foreignKeyConstraintName: 'post_image_fk' })
  image: Relation<ImageEntity> | null
  @Column({ type: 'text', name: 'image_text', default: '' }) imageText: string
  /** The link is deleted with the post or the tag. */
  @ManyToMany(() => TagEntity)
  @JoinTable({
    name: 'post_tag',
    joinColumn: { name: 'post_id', foreignKeyConstraintName: 'post_tag_post_fk' },
    inverseJoinColumn: { name: 'tag_id', foreignKeyConstraintName: 'post_tag_tag_fk' },
  })
  tags: Relation<TagEntity>[]
  /** null for a draft; in the future for a scheduled post. */
  @Column({ type: 'timestamptz', name: 'published_at', nullable: true }) publishedAt: Date | null
  /** The date of an unpublished post, with which it can be published again. */
  @Column({ type: 'timestamptz', name: 'former_published_at', nullable: true }) formerPublishedAt: Date | null
  @Column({ type: 'boolean', name: 'comments_open', default: true }) commentsOpen: boolean
  @Column({ type: 'timestamptz', name: 'created_at', default: () => 'now()' }) createdAt: Date
  @Column({ type: 'timestamptz', name: 'updated_at', default: () => 'now()' }) updatedAt: Date
  /** Grows with every save. A save of an older version is a conflict. */
  @Column({ type: 'int', default: 1 }) version: number
}

@Entity({ name: 'page' })
@Check('page_slug_check', SLUG_CHECK)
@Unique('page_path_key', ['path'])
@Index('page_path_trigram_idx', { synchronize: false })
export class PageEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'page_pk' }) id: number
  @Column({ type: 'int', name: 'parent_id', nullable: true }) parentId: number | null
  /** Pages below it are deleted together with it. The database also guards the tree against cycles. */
  @ManyToOne(() => PageEntity, { onDelete: 'RESTRICT' })
  @JoinColumn({ name: 'parent_id', foreignKeyConstraintName: 'page_parent_fk' })
  parent: Relation<PageEntity> | null
  @Column({ type: 'text' }) title: string
  @Column({ type: 'text' }) slug: string
  /** The slugs from the top of the tree, joined by `/`. */
  @Column({ type: 'text' }) path: string
  @Column({ type: 'text' }) body: string
  @Column({ type: 'text' }) html: string
  /** The pipeline that rendered the HTML. */
  @Column({ type: 'text' }) pipeline: string
  @Column({ type: 'int', default: 0 }) position: number
  @Column({ type: 'boolean', name: 'in_navigation', default: false }) inNavigation: boolean
  @Column({ type: 'timestamptz', name: 'updated_at', default: () => 'now()' }) updatedAt: Date
  /** Grows with every save. A save of an older version is a conflict. */
  @Column({ type: 'int', default: 1 }) version: number
}

export const COMMENT_STATES = ['waiting', 'shown', 'spam', 'deleted'] as const
export type CommentState = (typeof COMMENT_STATES)[number]

@Entity({ name: 'comment' })
@Check('comment_state_check', "state IN ('waiting', 'shown', 'spam', 'deleted')")
@Check('comment_length_check', 'length(name) BETWEEN 1 AND 400 AND length(text) BETWEEN 1 AND 20000')
@Unique('comment_once_key', ['once'])
@Index('comment_post_idx', ['postId', 'createdAt', 'id'])
@Index('comment_created_idx', ['createdAt', 'id'])
export class CommentEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'comment_pk' }) id: number
  @Column({ type: 'int', name: 'post_id' }) postId: number
  /** A comment means nothing without its post. */
  @ManyToOne(() => PostEntity, { onDelete: 'CASCADE' })
  @JoinColumn({ name: 'post_id', foreignKeyConstraintName: 'comment_post_fk' })
  post: Relation<PostEntity>
  @Column({ type: 'text' }) name: string
  @Column({ type: 'text' }) text: string
  @Column({ type: 'text', default: 'shown' }) state: CommentState
  /** The token of the form. Submitting the form again adds no comment. */
  @Column({ type: 'uuid', nullable: true }) once: string | null
  @Column({ type: 'timestamptz', name: 'created_at', default: () => 'now()' }) createdAt: Date
}
