/** Sends several prepared statements to PostgreSQL at once: one write and one answer instead of one of each per statement. */
import pg, { type Connection, type FieldDef, type Submittable } from 'pg'

export interface Statement {
  text: string
  values: readonly unknown[]
}

export type Row = Record<string, unknown>

/** How the rows of a statement are read. A prepared statement whose columns change fails, so this holds for its connection. */
interface Columns {
  names: string[]
  parsers: ((text: string) => unknown)[]
}

/** A statement that a connection has prepared. */
interface Prepared {
  name: string
  /** Unknown until the first answer. */
  columns: Columns | undefined
}

/** The statements that connections have prepared, by text. After an error, the pool closes the connection. */
const known = new WeakMap<Connection, Map<string, Prepared>>()

const { prepareValue } = (
  pg as unknown as { utils: { prepareValue(value: unknown): string | Buffer | null } }
).utils

/** The value of a statement's row that cannot be read. As with errors of PostgreSQL, those after it have no result. */
export class UnreadableValue extends Error {
  constructor(override readonly cause: unknown) {
    super('A value cannot be read.')
  }
}

/** What pg's own queries pass to a connection; its types describe an older form. */
interface Sending {
  stream: { cork(): void; uncork(): void }
  parse(message: { name: string; text: string }): void
  bind(message: { statement: string; values: readonly unknown[]; valueMapper: typeof prepareValue }): void
  describe(message: { type: 'P' }): void
  execute(message: object): void
  sync(): void
}

/**
 * A query for a client of pg. Its statements run one after the other in one implicit transaction, in which each sees what
 * has been committed before it starts. A statement that fails ends the batch.
 */
export class StatementBatch implements Submittable {
  /** Set by pg, which also calls it if the connection fails. */
  callback?: (error: Error | null) => void
  /** The rows of each statement that was run completely, in order. */
  readonly results: Row[][] = []
  readonly #statements: readonly Statement[]
  #prepared: Prepared[] = []
  #rows: Row[] = []
  #unreadable: UnreadableValue | undefined

  constructor(statements: readonly Statement[]) {
    this.#statements = statements
  }

  submit(connection: Connection): void {
    const prepared = known.get(connection) ?? new Map<string, Prepared>()
    known.set(connection, prepared)
    const sending = connection as unknown as Sending
    sending.stream.cork()
    try {
      for (const { text, values } of this.#statements) {
        const isNew = !prepared.has(text)
        // Statements of pg's own queries are named otherwise.
        const one = prepared.get(text) ?? { name: `batch ${prepared.size}`, columns: undefined }
        prepared.set(text, one)
        this.#prepared.push(one)
        if (isNew) sending.parse({ name: one.name, text })
        sending.bind({ statement: one.name, values, valueMapper: prepareValue })
        if (isNew) sending.describe({ type: 'P' })
        sending.execute({})
      }
      sending.sync()
    } finally {
      sending.stream.uncork()
    }
  }

  handleRowDescription({ fields }: { fields: readonly FieldDef[] }): void {
    const one = this.#prepared[this.results.length]
    if (one)
      one.columns = {
        names: fields.map((field) => field.name),
        parsers: fields.map((field) => pg.types.getTypeParser(field.dataTypeID, 'text')),
      }
  }

  handleDataRow({ fields }: { fields: readonly (string | null)[] }): void {
    const { names = [], parsers = [] } = this.#prepared[this.results.length]?.columns ?? {}
    const row: Row = {}
    try {
      for (let index = 0; index < names.length; index++) {
        const text = fields[index] ?? null
        row[names[index] as string] = text === null ? null : parsers[index]?.(text)
      }
    } catch (error) {
      this.#unreadable ??= new UnreadableValue(error)
    }
    this.#rows.push(row)
  }

  handleCommandComplete(): void {
    if (!this.#unreadable) this.results.push(this.#rows)
    this.#rows = []
  }

  handleReadyForQuery(): void {
    this.callback?.(this.#unreadable ?? null)
  }

  handleError(error: Error): void {
    this.callback?.(error)
  }
}
