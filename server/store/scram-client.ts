/** A PostgreSQL client that proves its password and never sends it: a stranger on the server's port learns nothing. */
import type { EventEmitter } from 'node:events'
import type { Duplex } from 'node:stream'
import pg from 'pg'

interface Connection extends EventEmitter {
  stream: Duplex
}

/** What a server can ask for other than SCRAM (RFC 5802, RFC 7677). */
const OTHERS = ['authenticationCleartextPassword', 'authenticationMD5Password']

export class ScramClient extends pg.Client {
  constructor(...config: ConstructorParameters<typeof pg.Client>) {
    super(...config)
    const { connection } = this as unknown as { connection: Connection }
    for (const one of OTHERS)
      connection.on(one, () =>
        // Before the client's own listener, which would send the password.
        connection.stream.destroy(
          Object.assign(new Error('The server does not ask for SCRAM-SHA-256.'), { code: 'ECONNREFUSED' }),
        ),
      )
  }
}
