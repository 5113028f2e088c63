/** Stops the change log, for databases whose rows are generated. */
import type { DataSource } from 'typeorm'
import { LOGGED_TABLES } from '../migrations/change-log.ts'

export async function stopLogging(database: DataSource): Promise<void> {
  for (const table of LOGGED_TABLES)
    await database.query(
      ['insert', 'update', 'delete', 'truncate']
        .map((event) => `ALTER TABLE ${table} DISABLE TRIGGER log_${event}`)
        .join('; '),
    )
}
