/** Finds out the address of a reader, also behind proxies. */
import { BlockList, isIP } from 'node:net'

/** Reads addresses and networks such as `10.0.0.0/8`. @returns `invalid`, the first that is none, if there is one */
export function readProxies(text: string): { proxies: BlockList | undefined } | { invalid: string } {
  const all = text.split(/[\s,]+/).filter((part) => part !== '')
  if (all.length === 0) return { proxies: undefined }
  const proxies = new BlockList()
  for (const one of all) {
    const [address = '', prefix, ...more] = one.split('/')
    const family = { 4: 'ipv4', 6: 'ipv6' } as const
    const kind = family[isIP(address) as 4 | 6] as 'ipv4' | 'ipv6' | undefined
    const length = prefix === undefined ? undefined : Number(prefix)
    if (
      !kind ||
      more.length > 0 ||
      (length !== undefined && !(length >= 0 && length <= (kind === 'ipv4' ? 32 : 128)))
    )
      return { invalid: one }
    if (length === undefined) proxies.addAddress(address, kind)
    else proxies.addSubnet(address, length, kind)
  }
  return { proxies }
}

const isTrusted = (proxies: BlockList, address: string): boolean => {
  const plain = address.replace(/^::ffff:(?=\d+\.)/i, '')
  const version = isIP(plain)
  return version !== 0 && proxies.check(plain, version === 4 ? 'ipv4' : 'ipv6')
}

/**
 * Returns the address of a reader. What a header says counts only if a trusted proxy has sent it, and of several addresses
 * the last one that no trusted proxy has: whatever is before it may be made up.
 * @param forwarded the `X-Forwarded-For` header
 */
export function readerAddress(
  connected: string,
  forwarded: string | undefined,
  proxies: BlockList | undefined,
): string {
  if (!proxies) return connected
  let address = connected
  const named = (forwarded ?? '')
    .slice(0, 2_000)
    .split(',')
    .map((one) => one.trim())
  while (isTrusted(proxies, address)) {
    const next = named.pop()
    if (next === undefined || isIP(next) === 0) return address
    address = next
  }
  return address
}
