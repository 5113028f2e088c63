/** The log file: readable by its owner only, rotated, and without whole addresses of readers. */
import { isIPv6 } from 'node:net'
import { pino, type Logger } from 'pino'
import { createStream } from 'rotating-file-stream'

/** The maximum size of a log file, and how many earlier ones are kept. */
const SIZE = '5M'
const KEPT = 4

/** How long closing waits for what is not written yet, in milliseconds. */
const LONGEST_CLOSE = 1_000

export interface LogFile {
  log: Logger
  /** Resolves once everything is written. */
  close(): Promise<void>
}

/**
 * Opens `esquina.log` in a folder, which is created if needed. Earlier files are `esquina.log.1` and so on.
 * @param size of a file, e.g. `5M`
 */
export function openLog(folder: string, size: `${number}${'K' | 'M' | 'B'}` = SIZE): LogFile {
  const file = createStream('esquina.log', { path: folder, size, rotate: KEPT, mode: 0o600 })
  // A full disk must not stop the blog.
  file.on('error', (error) => process.stderr.write(`The log cannot be written: ${error.message}\n`))
  const log = pino({ base: null }, { write: (line) => void file.write(shortenAddresses(line)) })
  const close = () =>
    new Promise<void>((done) => {
      const end = () => done()
      // Without a file, nothing is ever written.
      setTimeout(end, LONGEST_CLOSE).unref()
      file.once('error', end)
      file.end(end)
    })
  return { log, close }
}

const IPV4 = /\b(\d{1,3}\.\d{1,3}\.\d{1,3})\.\d{1,3}\b/g
const IPV6 = /(?<![\w:])(?:[0-9a-f]{1,4}:|:){2,7}[0-9a-f]{0,4}(?![\w:])/gi

/** Returns a text whose network addresses lack their last part: an octet, or all after the first three groups. */
export function shortenAddresses(text: string): string {
  return text
    .replace(IPV4, (address, network: string) => (address.startsWith('127.') ? address : `${network}.0`))
    .replace(IPV6, (address) => {
      if (!isIPv6(address) || address === '::1' || address === '::') return address
      const [head = ''] = address.split('::')
      return `${head.split(':').slice(0, 3).join(':')}::`
    })
}
