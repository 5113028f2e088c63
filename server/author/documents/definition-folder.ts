/** Reads a definition folder from disk: documents, content and media. */
import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'

export interface DefinitionFolder {
  /** The documents of the definition and the texts of the content, by path with `/`. */
  texts: Map<string, string>
  /** The files of `media/`, by name. */
  media: Map<string, Buffer>
}

const isText = (path: string) => /\.(yaml|liquid|md|json|css|js)$/.test(path) && !path.startsWith('media/')

/** Reads all files below the folder in order of their paths. Files whose names start with a dot are ignored. */
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
