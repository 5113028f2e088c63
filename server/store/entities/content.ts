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
  PrimaryColumn,
  PrimaryGeneratedColumn,
  Unique,
  type Relation,
} from 'typeorm'
import type { CommentReason } from '../../../core/comments/judge.ts'
import type { CommentState } from '../../../core/shapes/content-kinds.ts'

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
@Index('image_sha256_idx', ['sha256'])
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

@Entity({ name: 'comment' })
@Check('comment_state_check', "state IN ('waiting', 'shown', 'spam', 'deleted')")
@Check('comment_length_check', 'length(name) BETWEEN 1 AND 400 AND length(text) BETWEEN 1 AND 20000')
@Check('comment_parent_check', 'parent_id < id')
@Check('comment_depth_check', 'depth <= 10')
@Unique('comment_once_key', ['once'])
@Index('comment_post_idx', ['postId', 'createdAt', 'id'])
@Index('comment_created_idx', ['createdAt', 'id'])
@Index('comment_parent_idx', ['parentId'])
@Index('comment_thread_idx', ['postId', 'thread'])
@Index('comment_started_idx', ['postId', 'startedAt', 'thread'])
@Index('comment_state_idx', ['state', 'createdAt', 'id'])
@Index('comment_writer_idx', ['writer'])
@Index('comment_client_idx', ['client'])
@Index('comment_email_idx', { synchronize: false })
@Index('comment_same_idx', { synchronize: false })
export class CommentEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'comment_pk' }) id: number
  @Column({ type: 'int', name: 'post_id' }) postId: number
  /** A comment means nothing without its post. */
  @ManyToOne(() => PostEntity, { onDelete: 'CASCADE' })
  @JoinColumn({ name: 'post_id', foreignKeyConstraintName: 'comment_post_fk' })
  post: Relation<PostEntity>
  @Column({ type: 'int', name: 'parent_id', nullable: true }) parentId: number | null
  /** The comment that it replies to, which is on the same post. */
  @ManyToOne(() => CommentEntity)
  @JoinColumn({ name: 'parent_id', foreignKeyConstraintName: 'comment_parent_fk' })
  parent: Relation<CommentEntity> | null
  @Column({ type: 'text' }) name: string
  /** Readers never see it. */
  @Column({ type: 'text', default: '' }) email: string
  @Column({ type: 'text', default: '' }) site: string
  @Column({ type: 'text' }) text: string
  @Column({ type: 'text', default: 'shown' }) state: CommentState
  /** Written in the workbench, in the name of the post's author. */
  @Column({ type: 'boolean', name: 'by_author', default: false }) byAuthor: boolean
  /** Sorts comments by time, each followed by its replies. A trigger computes it, and the next three. */
  @Column({ type: 'text', insert: false, update: false }) thread: string
  /** 0 for a comment on the post, 1 for a reply to it. */
  @Column({ type: 'int', default: 0, insert: false, update: false }) depth: number
  /** When the first comment of the thread was written. */
  @Column({ type: 'timestamptz', name: 'started_at', insert: false, update: false }) startedAt: Date
  /** Whether all comments above it are shown. */
  @Column({ type: 'boolean', name: 'parents_shown', default: true, insert: false, update: false })
  parentsShown: boolean
  /** When it got its state. */
  @Column({ type: 'timestamptz', name: 'state_at', default: () => 'now()' }) stateAt: Date
  /** Why it was not simply shown. */
  @Column({ type: 'jsonb', default: [] }) reasons: CommentReason[]
  /** The probability of spam when it was written. */
  @Column({ type: 'real', nullable: true }) score: number | null
  /** How long the form was open, in milliseconds. */
  @Column({ type: 'int', name: 'filled_in', nullable: true }) filledIn: number | null
  /** Identifies the browser that sent it, without revealing its cookie. */
  @Column({ type: 'text', nullable: true }) writer: string | null
  /** Identifies the network address that it came from, without revealing it. */
  @Column({ type: 'text', nullable: true }) client: string | null
  /** What the writer's picture is drawn from. */
  @Column({ type: 'text', nullable: true }) avatar: string | null
  /** The token of the form. Submitting the form again adds no comment. */
  @Column({ type: 'uuid', nullable: true }) once: string | null
  @Column({ type: 'timestamptz', name: 'created_at', default: () => 'now()' }) createdAt: Date
  @Column({ type: 'timestamptz', name: 'edited_at', nullable: true }) editedAt: Date | null
  /** What it was before it was edited, oldest first. A trigger adds to it. */
  @Column({ type: 'jsonb', default: [], update: false })
  edits: { at: string; name: string; text: string }[]
  /** Grows with every save. A save of an older version is a conflict. */
  @Column({ type: 'int', default: 1 }) version: number
}

/** The number of shown comments of a post, kept by triggers. */
@Entity({ name: 'comment_tally' })
export class CommentTallyEntity {
  @PrimaryColumn({ type: 'int', name: 'post_id', primaryKeyConstraintName: 'comment_tally_pk' })
  postId: number
  @ManyToOne(() => PostEntity, { onDelete: 'CASCADE' })
  @JoinColumn({ name: 'post_id', foreignKeyConstraintName: 'comment_tally_post_fk' })
  post: Relation<PostEntity>
  @Column({ type: 'int' }) shown: number
}

/** How many comments were sent from an address, or to a post, within a time that began at `since`. */
@Entity({ name: 'comment_rate' })
@Index('comment_rate_since_idx', ['since'])
export class CommentRateEntity {
  @PrimaryColumn({ type: 'text', primaryKeyConstraintName: 'comment_rate_pk' }) key: string
  @PrimaryColumn({ type: 'timestamptz', primaryKeyConstraintName: 'comment_rate_pk' }) since: Date
  @Column({ type: 'int' }) count: number
}
