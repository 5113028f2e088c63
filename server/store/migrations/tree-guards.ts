/** Guards trees against cycles, keeps the date of unpublished posts, and renames two tables after their contents. */
import type { MigrationInterface, QueryRunner } from 'typeorm'

export class TreeGuards1764600000000 implements MigrationInterface {
  name = 'TreeGuards1764600000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement)
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of BACK) await runner.query(statement)
  }
}

const TREES = ['category', 'page']

/**
 * Moves are serialized per tree, so that two concurrent moves cannot form a cycle together. Each statement of a trigger
 * function sees what was committed before it, including the move that held the lock.
 */
const guard = (table: string) => [
  `CREATE FUNCTION ${table}_tree_guard() RETURNS trigger LANGUAGE plpgsql AS $$
   BEGIN
     PERFORM pg_advisory_xact_lock(hashtext('${table} tree'));
     IF EXISTS (
       WITH RECURSIVE above AS (
         SELECT parent_id FROM ${table} WHERE id = NEW.id
         UNION SELECT parent.parent_id FROM ${table} parent JOIN above ON parent.id = above.parent_id)
       SELECT 1 FROM above WHERE parent_id = NEW.id)
     THEN RAISE EXCEPTION 'a ${table} cannot be below itself'
       USING ERRCODE = 'check_violation', CONSTRAINT = '${table}_tree_check', TABLE = '${table}';
     END IF;
     RETURN NULL;
   END $$`,
  `CREATE CONSTRAINT TRIGGER ${table}_tree_guard AFTER INSERT OR UPDATE OF parent_id ON ${table}
   FOR EACH ROW WHEN (NEW.parent_id IS NOT NULL) EXECUTE FUNCTION ${table}_tree_guard()`,
]

const STATEMENTS = [
  ...TREES.flatMap(guard),
  // Categories that are deleted with others below them would move those to the top unnoticed.
  'ALTER TABLE category DROP CONSTRAINT category_parent_fk',
  `ALTER TABLE category ADD CONSTRAINT category_parent_fk FOREIGN KEY (parent_id) REFERENCES category (id) ON DELETE RESTRICT`,
  'ALTER TABLE post ADD COLUMN former_published_at timestamptz',
  'ALTER TABLE unanswered_address RENAME TO not_found_address',
  'ALTER TABLE not_found_address RENAME CONSTRAINT unanswered_address_pk TO not_found_address_pk',
  'ALTER INDEX unanswered_address_last_idx RENAME TO not_found_address_last_idx',
  'ALTER TABLE set_aside RENAME TO dismissed_finding',
  'ALTER TABLE dismissed_finding RENAME CONSTRAINT set_aside_pk TO dismissed_finding_pk',
]

const BACK = [
  'ALTER TABLE dismissed_finding RENAME CONSTRAINT dismissed_finding_pk TO set_aside_pk',
  'ALTER TABLE dismissed_finding RENAME TO set_aside',
  'ALTER INDEX not_found_address_last_idx RENAME TO unanswered_address_last_idx',
  'ALTER TABLE not_found_address RENAME CONSTRAINT not_found_address_pk TO unanswered_address_pk',
  'ALTER TABLE not_found_address RENAME TO unanswered_address',
  'ALTER TABLE post DROP COLUMN former_published_at',
  'ALTER TABLE category DROP CONSTRAINT category_parent_fk',
  `ALTER TABLE category ADD CONSTRAINT category_parent_fk FOREIGN KEY (parent_id) REFERENCES category (id) ON DELETE SET NULL`,
  ...TREES.flatMap((table) => [
    `DROP TRIGGER ${table}_tree_guard ON ${table}`,
    `DROP FUNCTION ${table}_tree_guard()`,
  ]),
]
