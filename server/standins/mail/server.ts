/** Accepts e-mails by SMTP on loopback, and keeps them in files instead of delivering them. */
import { randomBytes } from 'node:crypto'
import { mkdirSync } from 'node:fs'
import { open, readdir, rename, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { SMTPServer } from 'smtp-server'

/** The maximum size of an e-mail, in bytes. */
const LARGEST = 1024 * 1024
/** The number of e-mails that are kept. The oldest are deleted. */
const KEPT = 500

export interface MailStandIn {
  /** An address for `SMTP_URL`. */
  url: string
  close(): Promise<void>
}

/** @param folder of the files */
export async function startMailStandIn(folder: string): Promise<MailStandIn> {
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  const server = new SMTPServer({
    authOptional: true,
    // Both sides are on this machine.
    disabledCommands: ['STARTTLS', 'AUTH'],
    size: LARGEST,
    maxClients: 20,
    socketTimeout: 30_000,
    // Otherwise the server would look up the client in the DNS.
    disableReverseLookup: true,
    onData(stream, _session, done) {
      const parts: Buffer[] = []
      stream.on('data', (part: Buffer) => {
        // The rest is read and discarded, because the answer follows the data.
        if (!stream.sizeExceeded) parts.push(part)
      })
      stream.on('error', (error) => done(error))
      stream.on('end', () => {
        if (stream.sizeExceeded) {
          done(Object.assign(new Error('The message is too large.'), { responseCode: 552 }))
          return
        }
        keep(folder, Buffer.concat(parts)).then(
          () => done(null, 'kept'),
          (error: unknown) => done(error instanceof Error ? error : new Error(String(error))),
        )
      })
    },
  })
  // Clients may disconnect at any time.
  server.on('error', () => undefined)
  await new Promise<void>((ready, fail) => {
    server.server.once('error', fail)
    server.listen(0, '127.0.0.1', ready)
  })
  const address = server.server.address()
  const port = typeof address === 'object' && address ? address.port : 0
  return {
    url: `smtp://127.0.0.1:${port}`,
    close: () => new Promise((closed) => void server.close(() => closed())),
  }
}

/** Stores an e-mail under a name that sorts by time. The file appears when it is complete. */
async function keep(folder: string, mail: Buffer): Promise<void> {
  const name = `${Date.now().toString(36).padStart(9, '0')}-${randomBytes(4).toString('hex')}.eml`
  const unfinished = join(folder, `.${name}`)
  const file = await open(unfinished, 'wx', 0o600)
  try {
    await file.writeFile(mail)
  } finally {
    await file.close()
  }
  await rename(unfinished, join(folder, name))
  const names = (await readdir(folder)).filter((one) => one.endsWith('.eml') && !one.startsWith('.')).sort()
  for (const old of names.slice(0, Math.max(0, names.length - KEPT)))
    await rm(join(folder, old), { force: true })
}
