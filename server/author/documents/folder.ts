/** Reads a definition folder from disk. */
import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'

export interface DefinitionFolder {
  /** Documents of the definition and texts of the content: path with `/` → text. */
  texts: Map<string, string>
  /** media/NAME → bytes. */
  media: Map<string, Buffer>
}

const isText = (path: string) => /\.(yaml|liquid|md|json|css|js)$/.test(path) && !path.startsWith('media/')

/** Reads every file below the folder, in order of their paths; files beginning with a dot are passed over. */
export async function readFolder(root: string): Promise<DefinitionFolder> {
  const texts = new Map<string, string>()
  const media = new Map<string, Buffer>()
  const entries = await readdir(root, { recursive: true, withFileTypes: true })
  const paths = entries
    .filter((entry) => entry.isFile() && !entry.name.startsWith('.') && entry.name !== 'README.md')
    .map((entry) =>
      join(entry.parentPath, entry.name).slice(root.length).replaceAll('\\', '/').replace(/^\/+/, ''),
    )
    .sort()
  for (const path of paths) {
    const bytes = await readFile(join(root, path))
    if (isText(path)) texts.set(path, bytes.toString('utf8'))
    else if (path.startsWith('media/')) media.set(path.slice('media/'.length), bytes)
  }
  return { texts, media }
}
