/** Gives all content versions, keeps deleted rows, and stores which pipeline rendered HTML. */
import type { MigrationInterface, QueryRunner } from 'typeorm'

export class ContentInOrder1764300000000 implements MigrationInterface {
  name = 'ContentInOrder1764300000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement)
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of BACK) await runner.query(statement)
  }
}

const VERSIONED = ['page', 'category', 'tag', 'author']
const RENDERED = ['post', 'page']

const STATEMENTS = [
  ...VERSIONED.map((table) => `ALTER TABLE ${table} ADD COLUMN version integer NOT NULL DEFAULT 1`),
  'ALTER TABLE image ADD COLUMN added_at timestamptz NOT NULL DEFAULT now()',
  ...RENDERED.flatMap((table) => [
    `ALTER TABLE ${table} ALTER COLUMN pipeline_version TYPE text`,
    `ALTER TABLE ${table} RENAME COLUMN pipeline_version TO pipeline`,
  ]),
  'ALTER TABLE deleted_post RENAME TO deleted_row',
  'ALTER TABLE deleted_row RENAME CONSTRAINT deleted_post_pk TO deleted_row_pk',
  'ALTER INDEX deleted_post_at_idx RENAME TO deleted_row_at_idx',
  `ALTER TABLE deleted_row ADD COLUMN kind text NOT NULL DEFAULT 'post'`,
  `ALTER TABLE deleted_row ADD COLUMN links jsonb NOT NULL DEFAULT '[]'`,
  'ALTER TABLE deleted_row RENAME COLUMN slug TO name',
  // A list, not an object, because the order of the rows matters when they are restored.
  `UPDATE deleted_row SET rows = jsonb_build_array(${['post', 'post_tag', 'comment', 'former_slug']
    .map((table) => `jsonb_build_object('table', '${table}', 'rows', rows -> '${table}')`)
    .join(', ')})`,
]

const BACK = [
  `DELETE FROM deleted_row WHERE kind <> 'post'`,
  `UPDATE deleted_row SET rows = (SELECT jsonb_object_agg(kept ->> 'table', kept -> 'rows') FROM jsonb_array_elements(rows) kept)`,
  'ALTER TABLE deleted_row RENAME COLUMN name TO slug',
  'ALTER TABLE deleted_row DROP COLUMN kind, DROP COLUMN links',
  'ALTER INDEX deleted_row_at_idx RENAME TO deleted_post_at_idx',
  'ALTER TABLE deleted_row RENAME CONSTRAINT deleted_row_pk TO deleted_post_pk',
  'ALTER TABLE deleted_row RENAME TO deleted_post',
  ...RENDERED.flatMap((table) => [
    // HTML from another allow-list has no version, so it is rendered again.
    `ALTER TABLE ${table} ALTER COLUMN pipeline TYPE integer USING coalesce(substring(pipeline FROM '^\\d+$')::integer, 0)`,
    `ALTER TABLE ${table} RENAME COLUMN pipeline TO pipeline_version`,
  ]),
  'ALTER TABLE image DROP COLUMN added_at',
  ...VERSIONED.map((table) => `ALTER TABLE ${table} DROP COLUMN version`),
]
