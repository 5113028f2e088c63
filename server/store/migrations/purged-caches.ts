/** Adds purgers of edge caches to the list of processes that keep copies, and the time of the last acknowledgement. */
import type { MigrationInterface, QueryRunner } from 'typeorm'

export class PurgedCaches1765300000000 implements MigrationInterface {
  name = 'PurgedCaches1765300000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      'ALTER TABLE copy_process ADD COLUMN patience integer, ADD COLUMN seen_at timestamptz NOT NULL DEFAULT now()',
    )
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE copy_process DROP COLUMN patience, DROP COLUMN seen_at')
  }
}
