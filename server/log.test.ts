// The log file: its mode, its rotation, and what it does not say.
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, expect, it } from 'vitest'
import { openLog, shortenAddresses } from './log.ts'

let folder: string
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'esquina-log-'))))
afterEach(() => rmSync(folder, { recursive: true }))

it('is readable by its owner only, and has at most four earlier files', async () => {
  const { log, close } = openLog(folder, '1K')
  for (let entry = 0; entry < 200; entry++) {
    log.info({ entry }, 'x'.repeat(200))
    if (entry % 10 === 9) await new Promise((done) => setTimeout(done, 5))
  }
  await close()
  const files = readdirSync(folder).filter((one) => one.startsWith('esquina.log'))
  expect(files).toContain('esquina.log.1')
  expect(files.length).toBeLessThanOrEqual(5)
  for (const file of files) expect(statSync(join(folder, file)).mode & 0o777, file).toBe(0o600)
})
it('can be closed where no file can be written', { timeout: 5_000 }, async () => {
  const { log, close } = openLog('/proc/nowhere')
  log.info({}, 'lost')
  await close()
})
it('has shortened addresses, wherever they stand', async () => {
  const { log, close } = openLog(folder)
  log.error(
    { client: '203.0.113.77', nested: { list: ['from 2001:db8:1:2::77'] } },
    'failed for 198.51.100.77',
  )
  log.error(new Error('connect 192.0.2.77:80'))
  await close()
  const text = readFileSync(join(folder, 'esquina.log'), 'utf8')
  expect(text).toContain('"client":"203.0.113.0"')
  expect(text).toContain('from 2001:db8:1::')
  // Times have these digits now and then.
  expect(text).not.toMatch(/[.:]77\b/)
})
it.each([
  // Documentation addresses of RFC 5737 and RFC 3849.
  ['198.51.100.23', '198.51.100.0'],
  ['2001:db8::1', '2001:db8::'],
  ['2001:db8:0:1:2:3:4:5 said', '2001:db8:0:: said'],
  ['127.0.0.1:4310', '127.0.0.1:4310'],
  ['::1', '::1'],
  ['at 10:05:09', 'at 10:05:09'],
  ['version 1.2.3', 'version 1.2.3'],
])('%s becomes %s', (text, short) => expect(shortenAddresses(text)).toBe(short))
