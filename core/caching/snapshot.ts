/** Snapshots of the database (PostgreSQL's `pg_snapshot`): which transactions a reading sees. */

export interface Snapshot {
  /** All transactions before this one have ended. */
  xmin: bigint
  /** No transaction from this one on has ended. */
  xmax: bigint
  /** The transactions between them that have not ended. */
  running: ReadonlySet<bigint>
}

/** Parses a snapshot such as `10:20:10,14,15`. */
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

/** Decides whether a snapshot sees the changes of a committed transaction. */
export const sees = ({ xmin, xmax, running }: Snapshot, transaction: bigint): boolean =>
  transaction < xmin || (transaction < xmax && !running.has(transaction))

/** Decides whether one snapshot sees everything that another one sees. */
export function includes(later: Snapshot, earlier: Snapshot): boolean {
  if (earlier.xmax > later.xmax) return false
  for (const one of later.running) if (sees(earlier, one)) return false
  return true
}
