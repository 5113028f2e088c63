/** Adds indexes with which steps of the definition, and what was undone, are found without reading the whole log. */
import type { MigrationInterface, QueryRunner } from 'typeorm'

export class ChangeLogIndexes1764800000000 implements MigrationInterface {
  name = 'ChangeLogIndexes1764800000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      "CREATE INDEX change_log_document_idx ON change_log (transaction) WHERE source = 'document'",
    )
    await runner.query(
      'CREATE INDEX change_log_undoes_idx ON change_log (transaction) WHERE undoes IS NOT NULL',
    )
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP INDEX change_log_document_idx, change_log_undoes_idx')
  }
}
