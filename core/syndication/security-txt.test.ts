// security.txt: read as RFC 9116 says, by its grammar (§4) and its rules about fields (§2.5).
import { describe, expect, it } from 'vitest'
import { SECURITY_PATH, writeSecurityTxt } from './security-txt.ts'

/** The ABNF of a field in §4, with the names of §2.5. */
const FIELD =
  /^(Acknowledgments|Canonical|Contact|Encryption|Expires|Hiring|Policy|Preferred-Languages): [\x21-\x7e]+( [\x21-\x7e]+)*$/

const fields = (text: string): [string, string][] =>
  text
    .trimEnd()
    .split('\n')
    .map((line) => {
      expect(line).toMatch(FIELD)
      const at = line.indexOf(':')
      return [line.slice(0, at), line.slice(at + 2)]
    })

describe('security.txt', () => {
  const whole = {
    contact: ['mailto:safe@cobble-lane.example', 'https://cobble-lane.example/safety'],
    expires: '2027-06-30',
    policy: 'https://cobble-lane.example/policy',
    encryption: 'openpgp4fpr:5f2de5521c63a801ab59ccb603d49de44b29100f',
    acknowledgments: 'https://cobble-lane.example/thanks',
    languages: 'en, fr',
  }
  it('has contacts in their order, and expires once (§2.5.3, §2.5.5)', () => {
    const all = fields(writeSecurityTxt(whole, undefined))
    expect(all.filter(([name]) => name === 'Contact').map((one) => one[1])).toEqual(whole.contact)
    const expires = all.filter(([name]) => name === 'Expires')
    expect(expires).toHaveLength(1)
    // RFC 3339 §5.6
    expect(expires[0]?.[1]).toMatch(/^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(Z|[+-]\d\d:\d\d)$/)
  })
  it('says where it is, if that is public (§2.5.2)', () => {
    const canonical = `https://cobble-lane.example${SECURITY_PATH}`
    expect(fields(writeSecurityTxt(whole, canonical))).toContainEqual(['Canonical', canonical])
    expect(writeSecurityTxt(whole, undefined)).not.toContain('Canonical')
  })
  it('has nothing that was not given', () => {
    const { contact, expires } = whole
    expect(fields(writeSecurityTxt({ contact, expires }, undefined)).map(([name]) => name)).toEqual([
      'Contact',
      'Contact',
      'Expires',
    ])
  })
})
