/** Adds the list of processes that keep copies, with what each has seen of the change log. */
import type { MigrationInterface, QueryRunner } from 'typeorm'

export class CopyProcesses1765200000000 implements MigrationInterface {
  name = 'CopyProcesses1765200000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE copy_process (id uuid NOT NULL, CONSTRAINT copy_process_pk PRIMARY KEY (id),
        seen text, started_at timestamptz NOT NULL DEFAULT now()) WITH (fillfactor = 50)`,
    )
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE copy_process')
  }
}
