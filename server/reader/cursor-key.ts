/** The key that cursors in addresses are signed with: made once, kept with the blog, told to nobody. */
import { createHmac, randomBytes } from 'node:crypto'
import type { DataSource } from 'typeorm'
import type { Sign } from '../../core/paging/cursor.ts'
import { SettingEntity } from '../store/entities/definition.ts'

const NAME = 'cursor-key'

/** HMAC-SHA-256 (RFC 2104), its first 128 bits (§5: no fewer than half of them). */
export const signWith =
  (key: Uint8Array): Sign =>
  (text) =>
    createHmac('sha256', key).update(text).digest().subarray(0, 16).toString('base64url')

export const passingKey = (): Uint8Array => randomBytes(32)

/** Several processes of one blog have the same key: who comes second reads what the first wrote. */
export async function keptCursorKey(database: DataSource): Promise<Uint8Array> {
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
