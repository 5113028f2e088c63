/** Snapshots of the database: which transactions were committed when it was read (PostgreSQL's `pg_snapshot`). */

export interface Snapshot {
  /** Every transaction before this one had ended. */
  xmin: bigint
  /** No transaction from this one on had ended. */
  xmax: bigint
  /** Those between them that had not ended. */
  running: ReadonlySet<bigint>
}

/** Reads a snapshot as PostgreSQL prints it, e.g. `10:20:10,14,15`. */
export function readSnapshot(text: string): Snapshot | undefined {
  const found = /^(\d{1,20}):(\d{1,20}):((?:\d{1,20}(?:,\d{1,20})*)?)$/.exec(text)
  if (!found) return undefined
  const [, xmin = '', xmax = '', running = ''] = found
  return {
    xmin: BigInt(xmin),
    xmax: BigInt(xmax),
    running: new Set(running === '' ? [] : running.split(',').map(BigInt)),
  }
}

/** Whether what a committed transaction has changed is in a snapshot. */
export const sees = ({ xmin, xmax, running }: Snapshot, transaction: bigint): boolean =>
  transaction < xmin || (transaction < xmax && !running.has(transaction))

/** Whether everything that is in one snapshot is in another one, too. */
export function includes(later: Snapshot, earlier: Snapshot): boolean {
  if (earlier.xmax > later.xmax) return false
  for (const one of later.running) if (sees(earlier, one)) return false
  return true
}
