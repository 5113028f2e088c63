// Images over the API: their types are detected from their content; they are shown, replaced, deleted and restored.
import exifReader from 'exif-reader'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { HOST, KEY, testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'
import type { ImageItem } from '../../../contract/images.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

interface Sent {
  status: number
  answer: {
    outcome: string
    name: string
    width: number
    height: number
    removed: { what: string }[]
    code: string
  }
}
async function send(file: string, bytes: Uint8Array, replaces?: string): Promise<Sent> {
  const query = new URLSearchParams({ file, ...(replaces === undefined ? {} : { replaces }) })
  const response = await test.app.request(`http://${HOST}/api/image?${query.toString()}`, {
    method: 'PUT',
    headers: { host: HOST, authorization: `Bearer ${KEY}`, 'content-type': 'application/octet-stream' },
    body: Buffer.from(bytes),
  })
  return { status: response.status, answer: (await response.json()) as Sent['answer'] }
}
const images = async () => (await test.api<ImageItem[]>('GET', '/api/images')).answer
const picture = (width: number, height: number) =>
  sharp({ create: { width, height, channels: 3, background: '#b9472a' } })
const svg = (inside: string, size = '0 0 30 20') =>
  Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="${size}">${inside}</svg>`)

describe('adding', () => {
  it.each([
    ['png', 'image/png'],
    ['jpeg', 'image/jpeg'],
    ['webp', 'image/webp'],
    ['gif', 'image/gif'],
  ] as const)('a %s is detected from its content, and served with its type', async (format, type) => {
    const bytes = await picture(40, 30).toFormat(format).toBuffer()
    const { status, answer } = await send(`Výstava ${format}.BMP`, bytes)
    const ending = format === 'jpeg' ? 'jpg' : format
    expect([status, answer]).toEqual([
      200,
      {
        outcome: 'added',
        name: `vystava-${format}.${ending}`,
        width: 40,
        height: 30,
        removed: [],
        purged: [],
      },
    ])
    const listed = (await images()).find((one) => one.name === answer.name)
    expect(listed).toMatchObject({ type, width: 40, height: 30, bytes: bytes.byteLength, uses: [] })
    const readers = await import('../../reader/listener.ts').then(({ blogListener }) =>
      blogListener(test.blog),
    )
    const served = await readers.request(`http://b.test/media/${answer.name}`)
    expect(served.headers.get('content-type')).toBe(type)
    expect(served.headers.get('x-content-type-options')).toBe('nosniff')
    expect(Buffer.from(await served.arrayBuffer()).equals(bytes)).toBe(true)
  })
  it('the same file is the same image, and another one with its name gets a number', async () => {
    const first = await picture(8, 8).png().toBuffer()
    const other = await picture(9, 9).png().toBuffer()
    expect((await send('spoon.png', first)).answer).toMatchObject({ outcome: 'added', name: 'spoon.png' })
    expect((await send('spoon.png', first)).answer).toMatchObject({ outcome: 'same', name: 'spoon.png' })
    expect((await send('spoon.png', other)).answer).toMatchObject({ outcome: 'added', name: 'spoon-2.png' })
  })
  it('a rotated photograph has the size in which it is shown (EXIF 2.3, orientation 6)', async () => {
    const bytes = await picture(40, 20).jpeg().withMetadata({ orientation: 6 }).toBuffer()
    expect((await send('side.jpg', bytes)).answer).toMatchObject({ width: 20, height: 40 })
  })
  it.each(['jpeg', 'webp', 'png'] as const)(
    'a photograph that says where it was taken (%s) is shown as before, and says so no longer',
    async (format) => {
      const place = { IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '51/1 30/1 0/1' }, IFD0: { Model: 'Camera' } }
      const bytes = await picture(40, 20)
        .toFormat(format)
        .withExif(place)
        .withMetadata({ orientation: 6, exif: place })
        .toBuffer()
      const before = await sharp(bytes).metadata()
      expect(exifReader(before.exif ?? Buffer.of()).GPSInfo?.GPSLatitude).toBeDefined()
      const { answer } = await send(`place-${format}.${format}`, bytes)
      expect(answer).toMatchObject({ outcome: 'added', width: 20, height: 40 })
      expect(answer.removed.map((one) => one.what).join()).toContain('location')
      const served = await test.readers.request(`/media/${answer.name}`)
      const stored = Buffer.from(await served.arrayBuffer())
      const after = await sharp(stored).metadata()
      expect(after).toMatchObject({ format, width: 20, height: 40 })
      expect([after.exif, after.xmp, after.orientation]).toEqual([undefined, undefined, undefined])
      // To the eye it is the same picture.
      const [is, was] = await Promise.all([
        sharp(stored).raw().toBuffer(),
        sharp(bytes).autoOrient().raw().toBuffer(),
      ])
      expect(Math.max(...is.map((value, at) => Math.abs(value - (was[at] ?? 0))))).toBeLessThan(12)
    },
  )
  it('a photograph without a location stays byte for byte as it is, with its other metadata', async () => {
    const bytes = await picture(40, 20)
      .jpeg()
      .withExif({ IFD0: { Model: 'Camera' } })
      .toBuffer()
    const { answer } = await send('camera.jpg', bytes)
    expect(answer.removed).toEqual([])
    const served = await test.readers.request(`/media/${answer.name}`)
    expect(Buffer.from(await served.arrayBuffer()).equals(bytes)).toBe(true)
  })
  it('an SVG image is sanitized, and what was removed is listed', async () => {
    const { answer } = await send('plan.svg', svg('<script>alert(1)</script><rect onclick="x()" width="9"/>'))
    expect(answer).toMatchObject({ outcome: 'added', width: 30, height: 20 })
    expect(answer.removed.map((one) => one.what)).toEqual(['<script>', 'onclick of <rect>'])
    const { text } = await test.read('/media/plan.svg')
    expect(text).toContain('<rect width="9">')
    expect(text).not.toMatch(/script|onclick|alert/)
  })
})

describe('refused', () => {
  const header = async (width: number, height: number) => {
    // A PNG with a size in its header and without the data for it (PNG 1.2 §4.1.1: IHDR).
    const bytes = Buffer.from(await picture(4, 4).png().toBuffer())
    bytes.writeUInt32BE(width, 16)
    bytes.writeUInt32BE(height, 20)
    const crc = (await import('node:zlib')) as unknown as { crc32?: (data: Buffer) => number }
    const sum = crc.crc32?.(bytes.subarray(12, 29)) ?? crc32(bytes.subarray(12, 29))
    bytes.writeUInt32BE(sum >>> 0, 29)
    return bytes
  }
  it.each([
    ['an empty file', async () => Promise.resolve(Buffer.alloc(0)), 'image-empty'],
    ['a text', async () => Promise.resolve(Buffer.from('I am a picture')), 'image-not-an-image'],
    [
      'a page of HTML',
      async () => Promise.resolve(Buffer.from('<html><script>alert(1)</script>')),
      'svg-root-missing',
    ],
    [
      'half an image',
      async () => (await picture(300, 300).png().toBuffer()).subarray(0, 200),
      'image-damaged',
    ],
    ['a type that not all browsers show', () => picture(9, 9).tiff().toBuffer(), 'image-type-unsupported'],
    ['one that is 50,000 pixels wide', () => header(50_000, 100), 'image-side-too-long'],
    ['one of 100 million pixels', () => header(10_000, 10_000), 'image-too-many-pixels'],
    [
      'an SVG image that is 50,000 wide',
      async () => Promise.resolve(svg('', '0 0 50000 10')),
      'image-side-too-long',
    ],
    ['an invalid SVG image', async () => Promise.resolve(svg('<g>')), 'svg-xml-invalid'],
    ['more than 10 MB', async () => Promise.resolve(Buffer.alloc(10 * 1024 * 1024 + 1)), 'image-too-large'],
  ])('%s', async (_, make, code) => {
    const before = (await images()).length
    const { status, answer } = await send('x.png', await make())
    expect([status, answer.code]).toEqual([422, code])
    expect((await images()).length).toBe(before)
  })
  it('a body that is too large is refused before it is read', async () => {
    const { status, answer } = await send('x.png', new Uint8Array(12 * 1024 * 1024))
    expect([status, answer.code]).toEqual([413, 'request-too-large'])
  })
  it('a request of another site is refused', async () => {
    const response = await test.app.request(`http://${HOST}/api/image?file=x.png`, {
      method: 'PUT',
      headers: { host: HOST, authorization: `Bearer ${KEY}`, origin: 'https://evil.test' },
      body: new Uint8Array(await picture(2, 2).png().toBuffer()),
    })
    expect(response.status).toBe(403)
  })
})

describe('a used image', () => {
  it('lists its uses as an image, in texts and in the definition', async () => {
    const all = await images()
    const sign = all.find((one) => one.name === 'sign.svg')
    expect(sign?.uses.map((one) => one.how)).toContain('definition')
    const of = all.find((one) => one.name === 'kettle-electrical-1.svg')
    expect(of?.uses).toContainEqual({
      how: 'picture',
      kind: 'post',
      name: 'why-your-kettle-keeps-tripping-the-switch',
      title: expect.stringContaining('kettle') as string,
    })
    // Compared with the tables.
    const [row] = await test.database.query<{ count: number }[]>(
      `SELECT count(*)::int AS count FROM image WHERE NOT EXISTS (SELECT 1 FROM post WHERE image_id = image.id)
         AND NOT EXISTS (SELECT 1 FROM post WHERE body LIKE '%/media/' || image.name || '%')
         AND NOT EXISTS (SELECT 1 FROM page WHERE body LIKE '%/media/' || image.name || '%')
         AND NOT EXISTS (SELECT 1 FROM document WHERE text LIKE '%/media/' || image.name || '%')`,
    )
    expect(all.filter((one) => one.uses.length === 0).length).toBe(row?.count)
  })
  it('gives a text its dimensions, also if it is added after the text', async () => {
    const matter = { title: 'Of a tray', slug: 'of-a-tray', published: 'now' }
    await test.api('POST', '/api/posts', { matter, body: '![a tray](/media/tray.png)' })
    expect((await test.read('/posts/of-a-tray')).text).not.toMatch(/<img width/)
    await send('tray.png', await picture(64, 48).png().toBuffer())
    expect((await test.read('/posts/of-a-tray')).text).toContain('width="64" height="48"')
    await send('tray.png', await picture(32, 16).png().toBuffer(), 'tray.png')
    expect((await test.read('/posts/of-a-tray')).text).toContain('width="32" height="16"')
    const other = await send('tray.jpg', await picture(3, 3).jpeg().toBuffer(), 'tray.png')
    expect(other.answer.code).toBe('image-type-differs')
    expect((await send('a.png', await picture(3, 3).png().toBuffer(), 'not-there.png')).status).toBe(404)
  })
  it('is replaced on every card at once', async () => {
    const before = (await test.read('/posts')).text
    const [found] = /\/media\/[a-z0-9-]+\.svg(?=" width)/.exec(before.replace(/sign\.svg/g, '')) ?? []
    const name = found?.split('/').at(-1) ?? /media\/((?!sign)[a-z0-9-]+\.svg)/.exec(before)?.[1] ?? ''
    await send('new.svg', svg('', '0 0 77 55'), name)
    expect((await test.read(`/media/${name}`)).text).toContain('viewBox="0 0 77 55"')
    expect((await test.read('/posts')).text).toMatch(new RegExp(`${name.replace('.', '\\.')}[^>]*width="77"`))
  })
  it('is deleted from its posts, and restored byte for byte with them', async () => {
    const name = 'toaster-electrical-0.svg'
    const before = await test.database.query<unknown[]>(
      'SELECT image.*, ARRAY(SELECT slug FROM post WHERE image_id = image.id ORDER BY slug) AS posts FROM image WHERE name = $1',
      [name],
    )
    const page = '/posts/the-toaster-inquest'
    expect((await test.read(page)).text).toContain(name)
    const gone = await test.api<{ deleted: number }>('DELETE', `/api/image?name=${name}`)
    expect((await test.read(page)).text).not.toContain(name)
    expect((await test.read(`/media/${name}`)).status).toBe(404)
    expect((await test.api('POST', '/api/deleted/restore', { deleted: gone.answer.deleted })).status).toBe(
      200,
    )
    expect((await test.read(page)).text).toContain(name)
    expect((await test.read(`/media/${name}`)).status).toBe(200)
    expect(
      await test.database.query<unknown[]>(
        'SELECT image.*, ARRAY(SELECT slug FROM post WHERE image_id = image.id ORDER BY slug) AS posts FROM image WHERE name = $1',
        [name],
      ),
    ).toEqual(before)
  })
})

/** Returns the checksum of a chunk (PNG 1.2, appendix D). */
function crc32(bytes: Buffer): number {
  let sum = 0xffffffff
  for (const byte of bytes) {
    sum ^= byte
    for (let bit = 0; bit < 8; bit++) sum = sum & 1 ? (sum >>> 1) ^ 0xedb88320 : sum >>> 1
  }
  return ~sum
}
