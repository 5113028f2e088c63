/** Keeps the sessions of signed-in browsers. */
import type { MigrationInterface, QueryRunner } from 'typeorm'

export class WorkbenchSessions1765000000000 implements MigrationInterface {
  name = 'WorkbenchSessions1765000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`CREATE TABLE workbench_session (
      id text NOT NULL CONSTRAINT workbench_session_pk PRIMARY KEY,
      secret text NOT NULL,
      browser text NOT NULL,
      created_at timestamptz NOT NULL DEFAULT now(),
      seen_at timestamptz NOT NULL DEFAULT now()
    )`)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE workbench_session')
  }
}
