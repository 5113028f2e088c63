// Files over HTTP: parts, compression and validators, as RFC 9110 says.
import { brotliDecompressSync, gunzipSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { sendFile } from './send-file.ts'

const SVG = `<svg xmlns="http://www.w3.org/2000/svg">${'<path d="M0 0h10v10"/>'.repeat(200)}</svg>`
const svg = {
  bytes: new Uint8Array(Buffer.from(SVG)),
  etag: '"a"',
  headers: { 'content-type': 'image/svg+xml' },
}
/** 10,000 bytes, as in the examples of RFC 9110 §14.1.2. */
const png = {
  bytes: new Uint8Array(Array.from({ length: 10_000 }, (_, at) => at % 251)),
  etag: '"p"',
  headers: { 'content-type': 'image/png' },
}
const send = async (file: typeof svg, headers: Record<string, string> = {}, method = 'GET') => {
  const response = await sendFile(file, { method, field: (name) => headers[name] })
  return {
    status: response.status,
    headers: Object.fromEntries(response.headers),
    bytes: Buffer.from(await response.arrayBuffer()),
  }
}

describe('parts (RFC 9110 §14.1.2)', () => {
  it.each([
    ['bytes=0-499', 'bytes 0-499/10000', 0, 500],
    ['bytes=500-999', 'bytes 500-999/10000', 500, 1_000],
    ['bytes=-500', 'bytes 9500-9999/10000', 9_500, 10_000],
    ['bytes=9500-', 'bytes 9500-9999/10000', 9_500, 10_000],
    ['bytes=9500-20000', 'bytes 9500-9999/10000', 9_500, 10_000],
  ])('%s', async (range, expected, start, end) => {
    const part = await send(png, { range })
    expect([part.status, part.headers['content-range']]).toEqual([206, expected])
    expect(part.bytes.equals(Buffer.from(png.bytes.slice(start, end)))).toBe(true)
    expect(part.headers['etag']).toBe('"p"')
  })
  it('beyond the end is not satisfiable', async () => {
    const part = await send(png, { range: 'bytes=10000-' })
    expect([part.status, part.headers['content-range'], part.bytes.length]).toEqual([416, 'bytes */10000', 0])
  })
  it.each(['bytes=0-0,-1', 'lines=1-2', 'bytes=5-2x', 'nonsense'])(
    '%s is answered with the whole',
    async (range) => {
      const whole = await send(png, { range })
      expect([whole.status, whole.bytes.length]).toEqual([200, 10_000])
    },
  )
  it('of another version is answered with the whole (§13.1.5)', async () => {
    expect((await send(png, { range: 'bytes=0-9', 'if-range': '"p"' })).status).toBe(206)
    for (const other of ['"q"', 'W/"p"', 'Sat, 28 Nov 2026 10:00:00 GMT'])
      expect((await send(png, { range: 'bytes=0-9', 'if-range': other })).status, other).toBe(200)
  })
  it('is for GET only', async () => {
    const head = await send(png, { range: 'bytes=0-9' }, 'HEAD')
    expect([head.status, head.headers['content-length'], head.bytes.length]).toEqual([200, '10000', 0])
  })
})

describe('compression', () => {
  it('SVG is sent with br or gzip, each with its own validator', async () => {
    const br = await send(svg, { 'accept-encoding': 'gzip, br' })
    expect(br.headers).toMatchObject({ 'content-encoding': 'br', vary: 'accept-encoding', etag: '"a-br"' })
    expect(brotliDecompressSync(br.bytes).toString()).toBe(SVG)
    const gzip = await send(svg, { 'accept-encoding': 'gzip, br;q=0' })
    expect(gunzipSync(gzip.bytes).toString()).toBe(SVG)
    expect((await send(svg)).bytes.toString()).toBe(SVG)
    expect((await send(svg, { 'accept-encoding': 'br', 'if-none-match': '"a-br"' })).status).toBe(304)
    expect((await send(svg, { 'if-none-match': '"a-br"' })).status).toBe(200)
  })
  it('a PNG image is sent as it is', async () => {
    const image = await send(png, { 'accept-encoding': 'br' })
    expect([image.headers['content-encoding'], image.headers['vary']]).toEqual([undefined, undefined])
    expect((await send(png, { 'if-match': '"other"' })).status).toBe(412)
  })
})
