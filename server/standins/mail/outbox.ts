/** Reads the e-mails that the test server has kept. */
import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { simpleParser } from 'mailparser'

export interface KeptMail {
  subject: string
  text: string
  /** In their order, unfolded. */
  headers: { name: string; value: string }[]
}

/** Returns the newest e-mail with a Message-ID; undefined if there is none. */
export async function findKept(folder: string, id: string): Promise<KeptMail | undefined> {
  for (const name of await keptNames(folder)) {
    const bytes = await readFile(join(folder, name)).catch(() => undefined)
    if (bytes?.includes(id) !== true) continue
    const kept = await parse(bytes)
    if (kept.headers.some((one) => one.name.toLowerCase() === 'message-id' && one.value === id)) return kept
  }
  return undefined
}

/** Returns the names of the files, newest first. */
const keptNames = async (folder: string): Promise<string[]> =>
  (await readdir(folder).catch(() => []))
    .filter((one) => /^[0-9a-z].*\.eml$/.test(one))
    .sort()
    .reverse()

async function parse(bytes: Buffer): Promise<KeptMail> {
  const {
    subject = '',
    text = '',
    headerLines,
  } = await simpleParser(bytes, {
    skipHtmlToText: true,
    skipTextToHtml: true,
    skipImageLinks: true,
  })
  return {
    subject,
    text,
    headers: headerLines.map(({ line }) => {
      const at = line.indexOf(':')
      return {
        name: line.slice(0, at),
        value: line
          .slice(at + 1)
          .replace(/\r?\n[ \t]+/g, ' ')
          .trim(),
      }
    }),
  }
}
