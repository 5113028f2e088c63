/** Hashes of texts, which stand for them in keys and versions. */
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'

/** Returns the first 80 bits of the SHA-256 of a text, in hexadecimal digits. */
export const hashOf = (text: string): string => bytesToHex(sha256(utf8ToBytes(text)).subarray(0, 10))
