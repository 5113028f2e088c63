// Images in other sizes and formats, over HTTP: decoded again with sharp.
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { blogListener } from '../listener.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { encodeSize, EncoderBusy, NotEncoded } from './encode.ts'

let test: TestBlog
let app: ReturnType<typeof blogListener>
beforeAll(async () => {
  test = await testBlog()
  app = blogListener(test.blog)
})
afterAll(() => test.close())

const ask = (path: string, init: RequestInit = {}) =>
  app.request(`http://blog.test/media/${path}`, { redirect: 'manual', ...init })
const bytesOf = async (response: Response) => Buffer.from(await response.arrayBuffer())
const plain = (width: number, height: number, background: string) =>
  sharp({ create: { width, height, channels: 3, background } })
let number = 0
async function added(bytes: Buffer, ending: string, width: number, height: number): Promise<string> {
  const name = `test-${++number}.${ending}`
  await test.database.query(
    `INSERT INTO image (name, type, width, height, bytes, sha256) VALUES ($1, $2, $3, $4, $5, encode(sha256($5), 'hex'))`,
    [name, `image/${ending === 'jpg' ? 'jpeg' : ending}`, width, height, bytes],
  )
  return name
}
const kept = async () =>
  (
    await test.database.query<{ width: number; format: string }[]>('SELECT width, format FROM image_size')
  ).map((one) => `${one.width}.${one.format}`)

describe('sizes', () => {
  it.each([
    ['webp', 'webp'],
    ['avif', 'heif'],
  ])('an image is served as %s in its width', async (format, decoded) => {
    const name = await added(await plain(800, 600, '#345').jpeg().toBuffer(), 'jpg', 800, 600)
    const response = await ask(`${name}/480.${format}`)
    expect([response.status, response.headers.get('content-type')]).toEqual([200, `image/${format}`])
    const made = await sharp(await bytesOf(response)).metadata()
    expect([made.format, made.width, made.height]).toEqual([decoded, 480, 360])
  })
  it('a photograph stays upright and loses where it was taken', async () => {
    const bytes = await plain(800, 600, '#345')
      .withExif({ IFD0: { Artist: 'Someone' }, IFD3: { GPSLatitudeRef: 'N' } })
      .withMetadata({ orientation: 6 })
      .jpeg()
      .toBuffer()
    const name = await added(bytes, 'jpg', 600, 800)
    const made = await sharp(await bytesOf(await ask(`${name}/320.webp`))).metadata()
    expect([made.width, made.height, made.exif]).toEqual([320, 427, undefined])
  })
  it('a size is made once, however many request it at the same time, and then comes from the database', async () => {
    const name = await added(await plain(700, 500, '#543').png().toBuffer(), 'png', 700, 500)
    const before = (await kept()).length
    const answers = await Promise.all(Array.from({ length: 5 }, () => ask(`${name}/320.webp`)))
    const bodies = await Promise.all(answers.map(bytesOf))
    for (const body of bodies) expect(body.equals(bodies[0] ?? Buffer.alloc(0))).toBe(true)
    expect((await kept()).length).toBe(before + 1)
    await test.database.query(`UPDATE image_size SET bytes = 'marked' WHERE width = 320 AND format = 'webp'`)
    test.blog.images.clear()
    expect((await bytesOf(await ask(`${name}/320.webp`))).toString()).toBe('marked')
  })
  it('a replaced image is not served in the sizes of the former one', async () => {
    const name = await added(await plain(700, 500, '#ff0000').png().toBuffer(), 'png', 700, 500)
    await ask(`${name}/480.webp`)
    const other = await plain(700, 500, '#0000ff').png().toBuffer()
    await test.database.query(
      `UPDATE image SET bytes = $2, sha256 = encode(sha256($2), 'hex') WHERE name = $1`,
      [name, other],
    )
    test.blog.images.clear()
    const { dominant } = await sharp(await bytesOf(await ask(`${name}/480.webp`))).stats()
    expect([dominant.r < 60, dominant.b > 200]).toEqual([true, true])
  })
  it('sizes go with the last image that has the content', async () => {
    // Some have the same content.
    await test.database.query("DELETE FROM image WHERE name LIKE 'test-%'")
    expect(await kept()).toEqual([])
    const bytes = await plain(400, 300, '#123').png().toBuffer()
    const [one, two] = [await added(bytes, 'png', 400, 300), await added(bytes, 'png', 400, 300)]
    await ask(`${one}/320.webp`)
    await test.database.query('DELETE FROM image WHERE name = $1', [one])
    expect(await kept()).toEqual(['320.webp'])
    await test.database.query('DELETE FROM image WHERE name = $1', [two])
    expect(await kept()).toEqual([])
  })
  it('an animated WebP stays animated', async () => {
    const frames = await Promise.all(['#f00', '#0f0'].map((one) => plain(500, 400, one).png().toBuffer()))
    const bytes = await sharp(frames, { join: { animated: true } })
      .webp({ loop: 0, delay: [100, 100] })
      .toBuffer()
    const name = await added(bytes, 'webp', 500, 400)
    const made = await sharp(await bytesOf(await ask(`${name}/320.webp`)), { animated: true }).metadata()
    expect([made.pages, made.width]).toEqual([2, 320])
  })
})

describe('requests', () => {
  let name: string
  beforeAll(async () => (name = await added(await plain(400, 300, '#777').png().toBuffer(), 'png', 400, 300)))

  it.each(['321.webp', '1280.webp', '320.jpg', '320.webp/x', '../../etc/passwd', '320.webp%00', 'x'])(
    '%s is not there',
    async (size) => {
      expect((await ask(`${name}/${size}`)).status).toBe(404)
    },
  )
  it('a drawing has no sizes', async () => {
    expect((await ask('sign.svg/320.webp')).status).toBe(404)
  })
  it('HEAD tells type and validator without making it', async () => {
    const before = await kept()
    const head = await ask(`${name}/400.avif`, { method: 'HEAD' })
    expect([head.status, head.headers.get('content-type')]).toEqual([200, 'image/avif'])
    expect(await kept()).toEqual(before)
    const got = await ask(`${name}/400.avif`)
    expect(got.headers.get('etag')).toBe(head.headers.get('etag'))
  })
  it('the same size is not sent twice', async () => {
    const etag = (await ask(`${name}/320.webp`)).headers.get('etag') ?? ''
    expect((await ask(`${name}/320.webp`, { headers: { 'if-none-match': etag } })).status).toBe(304)
  })
  it('what cannot be encoded leads to the image as it was added', async () => {
    const broken = await added(Buffer.from('no image'), 'png', 400, 300)
    for (let time = 0; time < 2; time++) {
      const { status, headers } = await ask(`${broken}/320.webp`)
      expect([status, headers.get('location'), headers.get('cache-control')]).toEqual([
        307,
        `/media/${broken}`,
        'no-store',
      ])
    }
  })
  it('an animated PNG is not reduced to its first frame (PNG, third edition, §11.3.6)', async () => {
    const png = await plain(400, 300, '#777').png().toBuffer()
    // An animation control chunk after the header, which is 33 bytes long. Its contents do not matter here.
    const control = Buffer.concat([Buffer.from([0, 0, 0, 8]), Buffer.from('acTL'), Buffer.alloc(12)])
    const animated = Buffer.concat([png.subarray(0, 33), control, png.subarray(33)])
    await expect(encodeSize(animated, { width: 320, format: 'webp' })).rejects.toThrow(NotEncoded)
    expect(await encodeSize(png, { width: 320, format: 'webp' })).toBeDefined()
  })
  it('too many at once are refused and not queued', async () => {
    const png = await plain(400, 300, '#777').png().toBuffer()
    const asked = Array.from({ length: 40 }, () => encodeSize(png, { width: 320, format: 'webp' }))
    const settled = await Promise.allSettled(asked)
    const refused = settled.filter((one) => one.status === 'rejected')
    expect(refused.length).toBeGreaterThan(10)
    for (const one of refused) expect(one.reason).toBeInstanceOf(EncoderBusy)
    expect(await encodeSize(png, { width: 320, format: 'webp' })).toBeDefined()
  })
})
