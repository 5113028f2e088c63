// Pictures over the API: taken by what is in the file, shown to readers, replaced, deleted and put back.
import exifReader from 'exif-reader'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { HOST, KEY, testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'
import type { ImageItem } from '../../../contract/operations.ts'

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
    title: string
    detail: string
    problems: { message: string; line?: number }[]
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
  ] as const)(
    'a %s is told by its content, whatever its name, and served with its type',
    async (format, type) => {
      const bytes = await picture(40, 30).toFormat(format).toBuffer()
      const { status, answer } = await send(`Výstava ${format}.BMP`, bytes)
      const ending = format === 'jpeg' ? 'jpg' : format
      expect([status, answer]).toEqual([
        200,
        { outcome: 'added', name: `vystava-${format}.${ending}`, width: 40, height: 30, removed: [] },
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
    },
  )
  it('the same file again is the same picture; another of the same name gets a number', async () => {
    const first = await picture(8, 8).png().toBuffer()
    const other = await picture(9, 9).png().toBuffer()
    expect((await send('spoon.png', first)).answer).toMatchObject({ outcome: 'added', name: 'spoon.png' })
    expect((await send('spoon.png', first)).answer).toMatchObject({ outcome: 'same', name: 'spoon.png' })
    expect((await send('spoon.png', other)).answer).toMatchObject({ outcome: 'added', name: 'spoon-2.png' })
  })
  it('a photograph on its side has the size in which it is shown (EXIF 2.3, orientation 6)', async () => {
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
      expect(answer.removed.map((one) => one.what).join()).toContain('the place where it was taken')
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
  it('a photograph without a place stays as it is, to the byte, with what else the camera noted', async () => {
    const bytes = await picture(40, 20)
      .jpeg()
      .withExif({ IFD0: { Model: 'Camera' } })
      .toBuffer()
    const { answer } = await send('camera.jpg', bytes)
    expect(answer.removed).toEqual([])
    const served = await test.readers.request(`/media/${answer.name}`)
    expect(Buffer.from(await served.arrayBuffer()).equals(bytes)).toBe(true)
  })
  it('a drawing is made safe, and what went is said', async () => {
    const { answer } = await send('plan.svg', svg('<script>alert(1)</script><rect onclick="x()" width="9"/>'))
    expect(answer).toMatchObject({ outcome: 'added', width: 30, height: 20 })
    expect(answer.removed.map((one) => one.what)).toEqual(['<script>', 'onclick of <rect>'])
    const { text } = await test.read('/media/plan.svg')
    expect(text).toContain('<rect width="9">')
    expect(text).not.toMatch(/script|onclick|alert/)
  })
})

describe('what is not taken', () => {
  const header = async (width: number, height: number) => {
    // A PNG whose header promises a size and whose data is not there (PNG 1.2 §4.1.1: IHDR).
    const bytes = Buffer.from(await picture(4, 4).png().toBuffer())
    bytes.writeUInt32BE(width, 16)
    bytes.writeUInt32BE(height, 20)
    const crc = (await import('node:zlib')) as unknown as { crc32?: (data: Buffer) => number }
    const sum = crc.crc32?.(bytes.subarray(12, 29)) ?? crc32(bytes.subarray(12, 29))
    bytes.writeUInt32BE(sum >>> 0, 29)
    return bytes
  }
  it.each([
    ['nothing at all', async () => Promise.resolve(Buffer.alloc(0)), 'the file is empty'],
    ['a text', async () => Promise.resolve(Buffer.from('I am a picture')), 'this is no picture'],
    [
      'a page of HTML',
      async () => Promise.resolve(Buffer.from('<html><script>alert(1)</script>')),
      'this is no SVG',
    ],
    ['half a picture', async () => (await picture(300, 300).png().toBuffer()).subarray(0, 200), 'damaged'],
    ['a type that not every browser shows', () => picture(9, 9).tiff().toBuffer(), 'of the type TIFF'],
    ['one that is 50,000 pixels wide', () => header(50_000, 100), '50,000 × 100 pixels'],
    ['one of 100 million pixels', () => header(10_000, 10_000), '100 million pixels'],
    [
      'a drawing that is 50,000 wide',
      async () => Promise.resolve(svg('', '0 0 50000 10')),
      '50,000 × 10 pixels',
    ],
    ['a broken drawing', async () => Promise.resolve(svg('<g>')), 'nexpected close tag'],
    ['more than 10 MB', async () => Promise.resolve(Buffer.alloc(10 * 1024 * 1024 + 1)), 'larger than 10 MB'],
  ])('%s', async (_, make, message) => {
    const before = (await images()).length
    const { status, answer } = await send('x.png', await make())
    expect([status, answer.title]).toEqual([422, expect.stringContaining(message) as string])
    expect((await images()).length).toBe(before)
  })
  it('more than the server reads is refused before it is read', async () => {
    const { status, answer } = await send('x.png', new Uint8Array(12 * 1024 * 1024))
    expect([status, answer.detail]).toEqual([413, 'It may have 11 MB.'])
  })
  it('a form of another site cannot send one', async () => {
    const response = await test.app.request(`http://${HOST}/api/image?file=x.png`, {
      method: 'PUT',
      headers: { host: HOST, authorization: `Bearer ${KEY}`, origin: 'https://evil.test' },
      body: new Uint8Array(await picture(2, 2).png().toBuffer()),
    })
    expect(response.status).toBe(403)
  })
})

describe('an image that is used', () => {
  it('says where: as a picture, in texts, in the definition', async () => {
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
    // Held against the tables by themselves.
    const [row] = await test.database.query<{ count: number }[]>(
      `SELECT count(*)::int AS count FROM image WHERE NOT EXISTS (SELECT 1 FROM post WHERE image_id = image.id)
         AND NOT EXISTS (SELECT 1 FROM post WHERE body LIKE '%/media/' || image.name || '%')
         AND NOT EXISTS (SELECT 1 FROM page WHERE body LIKE '%/media/' || image.name || '%')
         AND NOT EXISTS (SELECT 1 FROM document WHERE text LIKE '%/media/' || image.name || '%')`,
    )
    expect(all.filter((one) => one.uses.length === 0).length).toBe(row?.count)
  })
  it('a text that names it before it is there shows its size once it is', async () => {
    const matter = { title: 'Of a tray', slug: 'of-a-tray', published: 'now' }
    await test.api('POST', '/api/posts', { matter, body: '![a tray](/media/tray.png)' })
    expect((await test.read('/posts/of-a-tray')).text).not.toMatch(/<img width/)
    await send('tray.png', await picture(64, 48).png().toBuffer())
    expect((await test.read('/posts/of-a-tray')).text).toContain('width="64" height="48"')
    await send('tray.png', await picture(32, 16).png().toBuffer(), 'tray.png')
    expect((await test.read('/posts/of-a-tray')).text).toContain('width="32" height="16"')
    const other = await send('tray.jpg', await picture(3, 3).jpeg().toBuffer(), 'tray.png')
    expect(other.answer.title).toContain('has the type image/png')
    expect((await send('a.png', await picture(3, 3).png().toBuffer(), 'not-there.png')).status).toBe(404)
  })
  it('a picture that is replaced is another one on every card at once', async () => {
    const before = (await test.read('/posts')).text
    const [found] = /\/media\/[a-z0-9-]+\.svg(?=" width)/.exec(before.replace(/sign\.svg/g, '')) ?? []
    const name = found?.split('/').at(-1) ?? /media\/((?!sign)[a-z0-9-]+\.svg)/.exec(before)?.[1] ?? ''
    await send('new.svg', svg('', '0 0 77 55'), name)
    expect((await test.read(`/media/${name}`)).text).toContain('viewBox="0 0 77 55"')
    expect((await test.read('/posts')).text).toMatch(new RegExp(`${name.replace('.', '\\.')}[^>]*width="77"`))
  })
  it('deleted, posts have no picture; put back, they have it again, to the byte', async () => {
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

/** PNG 1.2, appendix D: the check of a chunk. */
function crc32(bytes: Buffer): number {
  let sum = 0xffffffff
  for (const byte of bytes) {
    sum ^= byte
    for (let bit = 0; bit < 8; bit++) sum = sum & 1 ? (sum >>> 1) ^ 0xedb88320 : sum >>> 1
  }
  return ~sum
}
