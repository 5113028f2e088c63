/** The key that signs what readers send back: cursors, form tokens, cookies. It is generated once and stored with the blog. */
import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto'
import type { DataSource } from 'typeorm'
import type { Sign } from '../../core/paging/cursor.ts'
import { SettingEntity } from '../store/entities/definition.ts'

const NAME = 'cursor-key'

/** Returns a signature function: HMAC-SHA-256 (RFC 2104), truncated to 128 bits (§5: at least half of them). */
export const signWith =
  (key: Uint8Array): Sign =>
  (text) =>
    createHmac('sha256', key).update(text).digest().subarray(0, 16).toString('base64url')

/** Returns a signature function for one purpose, so that nothing that is signed for another one is valid. */
export const signFor = (key: Uint8Array, purpose: string): Sign =>
  signWith(createHmac('sha256', key).update(purpose).digest())

/** Compares a signature in constant time. */
export function isSigned(sign: Sign, text: string, signature: string): boolean {
  const [wanted, given] = [Buffer.from(sign(text)), Buffer.from(signature)]
  return wanted.length === given.length && timingSafeEqual(wanted, given)
}

/** Returns a key that is not stored. */
export const temporaryKey = (): Uint8Array => randomBytes(32)

/** Returns the stored key. If several processes start at once, all use the one that was stored first. */
export async function storedCursorKey(database: DataSource): Promise<Uint8Array> {
  const settings = database.getRepository(SettingEntity)
  await settings
    .createQueryBuilder()
    .insert()
    .values({ name: NAME, value: randomBytes(32).toString('base64url') })
    .orIgnore()
    .execute()
  const { value } = await settings.findOneByOrFail({ name: NAME })
  return Buffer.from(String(value), 'base64url')
}
