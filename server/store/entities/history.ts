/** The tables of history: former slugs, deleted rows, addresses not found, dismissed findings and measurements. */
import {
  Check,
  Column,
  Entity,
  Index,
  JoinColumn,
  ManyToOne,
  PrimaryColumn,
  PrimaryGeneratedColumn,
  Unique,
  type Relation,
} from 'typeorm'
import { AuthorEntity, CategoryEntity, PageEntity, PostEntity, TagEntity } from './content.ts'

/** A slug that a row had before; it redirects to the row. It is deleted together with the row. */
@Entity({ name: 'former_slug' })
@Unique('former_slug_key', ['kind', 'slug'])
@Check(
  'former_slug_owner_check',
  "(kind = 'post') = (post_id IS NOT NULL) AND (kind = 'page') = (page_id IS NOT NULL) AND (kind = 'category') = (category_id IS NOT NULL) AND (kind = 'tag') = (tag_id IS NOT NULL) AND (kind = 'author') = (author_id IS NOT NULL) AND num_nonnulls(post_id, page_id, category_id, tag_id, author_id) = 1",
)
@Index('former_slug_post_idx', ['postId'])
@Index('former_slug_page_idx', ['pageId'])
@Index('former_slug_category_idx', ['categoryId'])
@Index('former_slug_tag_idx', ['tagId'])
@Index('former_slug_author_idx', ['authorId'])
export class FormerSlugEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'former_slug_pk' }) id: number
  @Column({ type: 'text' }) kind: string
  /** The path, for a page. */
  @Column({ type: 'text' }) slug: string
  @Column({ type: 'int', name: 'post_id', nullable: true }) postId: number | null
  @ManyToOne(() => PostEntity, { onDelete: 'CASCADE' })
  @JoinColumn({ name: 'post_id', foreignKeyConstraintName: 'former_slug_post_fk' })
  post: Relation<PostEntity> | null
  @Column({ type: 'int', name: 'page_id', nullable: true }) pageId: number | null
  @ManyToOne(() => PageEntity, { onDelete: 'CASCADE' })
  @JoinColumn({ name: 'page_id', foreignKeyConstraintName: 'former_slug_page_fk' })
  page: Relation<PageEntity> | null
  @Column({ type: 'int', name: 'category_id', nullable: true }) categoryId: number | null
  @ManyToOne(() => CategoryEntity, { onDelete: 'CASCADE' })
  @JoinColumn({ name: 'category_id', foreignKeyConstraintName: 'former_slug_category_fk' })
  category: Relation<CategoryEntity> | null
  @Column({ type: 'int', name: 'tag_id', nullable: true }) tagId: number | null
  @ManyToOne(() => TagEntity, { onDelete: 'CASCADE' })
  @JoinColumn({ name: 'tag_id', foreignKeyConstraintName: 'former_slug_tag_fk' })
  tag: Relation<TagEntity> | null
  @Column({ type: 'int', name: 'author_id', nullable: true }) authorId: number | null
  @ManyToOne(() => AuthorEntity, { onDelete: 'CASCADE' })
  @JoinColumn({ name: 'author_id', foreignKeyConstraintName: 'former_slug_author_fk' })
  author: Relation<AuthorEntity> | null
  @Column({ type: 'timestamptz', name: 'created_at', default: () => 'now()' }) createdAt: Date
}

/** An address that was answered with 404. */
@Entity({ name: 'not_found_address' })
@Index('not_found_address_last_idx', ['lastAt'])
export class NotFoundAddressEntity {
  @PrimaryColumn({ type: 'text', primaryKeyConstraintName: 'not_found_address_pk' }) path: string
  @Column({ type: 'int' }) times: number
  @Column({ type: 'timestamptz', name: 'first_at' }) firstAt: Date
  @Column({ type: 'timestamptz', name: 'last_at' }) lastAt: Date
}

/** A finding of a check that was dismissed, with the reason. */
@Entity({ name: 'dismissed_finding' })
export class DismissedFindingEntity {
  @PrimaryColumn({ type: 'text', primaryKeyConstraintName: 'dismissed_finding_pk' }) rule: string
  @PrimaryColumn({ type: 'text', primaryKeyConstraintName: 'dismissed_finding_pk' }) subject: string
  @Column({ type: 'text' }) reason: string
  @Column({ type: 'timestamptz', default: () => 'now()' }) at: Date
}

/** Rows that were deleted together and can be restored. */
@Entity({ name: 'deleted_row' })
@Index('deleted_row_at_idx', ['deletedAt'])
export class DeletedRowEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'deleted_row_pk' }) id: number
  /** What was deleted: a post, page, category, tag, author or image. */
  @Column({ type: 'text', default: 'post' }) kind: string
  /** Its slug, path or name. */
  @Column({ type: 'text' }) name: string
  @Column({ type: 'text' }) title: string
  /** `[{ table, rows }]`, in the order in which they can be inserted again. */
  @Column({ type: 'jsonb' }) rows: unknown
  /** References to them that were changed. */
  @Column({ type: 'jsonb', default: [] }) links: unknown
  @Column({ type: 'timestamptz', name: 'deleted_at', default: () => 'now()' }) deletedAt: Date
}

/** The result of measuring a query while the blog grows. */
@Entity({ name: 'measurement' })
@Index('measurement_query_idx', ['query', 'id'])
export class MeasurementEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'measurement_pk' }) id: number
  @Column({ type: 'text' }) query: string
  /** The query's meaning when it was measured. If the query has changed since, the result is outdated. */
  @Column({ type: 'text' }) meaning: string
  @Column({ type: 'jsonb' }) result: object
  @Column({ type: 'timestamptz', default: () => 'now()' }) at: Date
}

/** A change of a row, written by triggers. See `migrations/change-log.ts`. */
@Entity({ name: 'change_log' })
@Index('change_log_transaction_idx', ['transaction'])
@Index('change_log_row_idx', ['source', 'rowId'])
@Index('change_log_document_idx', ['transaction'], { where: "source = 'document'" })
@Index('change_log_undoes_idx', ['transaction'], { where: 'undoes IS NOT NULL' })
export class ChangeEntity {
  @PrimaryGeneratedColumn('identity', { type: 'bigint', primaryKeyConstraintName: 'change_log_pk' })
  position: string
  @Column({ type: 'bigint' }) transaction: string
  @Column({ type: 'timestamptz' }) at: Date
  /** `esquina` for changes of the product; null for changes by other programs. */
  @Column({ type: 'text', nullable: true }) origin: string | null
  /** The transaction whose changes it undoes. */
  @Column({ type: 'bigint', nullable: true }) undoes: string | null
  /** The table. */
  @Column({ type: 'text' }) source: string
  @Column({ type: 'int', name: 'row_id' }) rowId: number
  @Column({ type: 'jsonb', nullable: true }) before: Record<string, unknown> | null
  @Column({ type: 'jsonb', nullable: true }) after: Record<string, unknown> | null
  /** The columns that differ; null for a created or deleted row. */
  @Column({ type: 'text', array: true, nullable: true }) fields: string[] | null
}

/** The content of an image before it was replaced or deleted. */
@Entity({ name: 'former_image' })
export class FormerImageEntity {
  @PrimaryColumn({ type: 'text', primaryKeyConstraintName: 'former_image_pk' }) sha256: string
  @Column({ type: 'bytea' }) bytes: Buffer
  @Column({ type: 'timestamptz', default: () => 'now()' }) at: Date
}

/** A browser that is signed in to the workbench. A row does not reveal what signs in. */
@Entity({ name: 'workbench_session' })
export class WorkbenchSessionEntity {
  /** A hash of the cookie. */
  @PrimaryColumn({ type: 'text', primaryKeyConstraintName: 'workbench_session_pk' }) id: string
  /** A hash of the secret that the workbench's own script sends. */
  @Column({ type: 'text' }) secret: string
  /** The start of `User-Agent`. */
  @Column({ type: 'text' }) browser: string
  @Column({ type: 'timestamptz', name: 'created_at', default: () => 'now()' }) createdAt: Date
  @Column({ type: 'timestamptz', name: 'seen_at', default: () => 'now()' }) seenAt: Date
}

/** A process that keeps copies. See `core/caching/lease.ts`. */
@Entity({ name: 'copy_process' })
export class CopyProcessEntity {
  @PrimaryColumn({ type: 'uuid', primaryKeyConstraintName: 'copy_process_pk' }) id: string
  /** The state of the database that it has seen, as `pg_snapshot` prints it; null before it has read the log. */
  @Column({ type: 'text', nullable: true }) seen: string | null
  /** How long writers wait for it, in milliseconds, if it is the purger of an edge cache; null for others. */
  @Column({ type: 'integer', nullable: true }) patience: number | null
  @Column({ type: 'timestamptz', name: 'started_at', default: () => 'now()' }) startedAt: Date
  /** The time of its last acknowledgement, by the database's clock. */
  @Column({ type: 'timestamptz', name: 'seen_at', default: () => 'now()' }) seenAt: Date
}
