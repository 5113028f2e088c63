/** The documents of a definition: their paths, kinds and limits. */
import { DOCUMENT_PROBLEMS } from './problems.ts'
import type { Problem } from './problem.ts'

export type DocumentKind = 'settings' | 'routes' | 'query' | 'indexes' | 'cache' | 'template' | 'asset'

const KINDS: readonly (readonly [RegExp, DocumentKind])[] = [
  [/^blog\.yaml$/, 'settings'],
  [/^routes\.yaml$/, 'routes'],
  [/^indexes\.yaml$/, 'indexes'],
  [/^cache\.yaml$/, 'cache'],
  [/^queries\/[a-z0-9-]+\.yaml$/, 'query'],
  [/^templates\/(layouts|pages|partials)\/[a-z0-9-]+\.liquid$/, 'template'],
  [/^assets\/[a-z0-9-]+\.(css|js)$/, 'asset'],
]

/** Longest document in characters. */
const DOCUMENT_LIMIT = 200_000

/** Returns the kind of the document at a path, or undefined if no document may have that path. */
export function documentKind(path: string): DocumentKind | undefined {
  return KINDS.find(([pattern]) => pattern.test(path))?.[1]
}

/** Returns what is wrong with a document's name, length or characters, before it is read. */
export function documentProblems(file: string, text: string): Problem[] {
  const problems: Problem[] = []
  if (documentKind(file) === undefined)
    problems.push({ file, ...DOCUMENT_PROBLEMS['document-name-invalid'](file) })
  if (text.length > DOCUMENT_LIMIT)
    problems.push({ file, ...DOCUMENT_PROBLEMS['document-too-long'](DOCUMENT_LIMIT) })
  if (text.includes('\0')) problems.push({ file, ...DOCUMENT_PROBLEMS['document-null-character']() })
  return problems
}

/** `templates/partials/card.liquid` → `partials/card`; `queries/latest.yaml` → `latest`. */
export function documentName(path: string): string {
  return path.replace(/^(templates|queries|assets)\//, '').replace(/\.(liquid|yaml)$/, '')
}

/** `partials/card` → `templates/partials/card.liquid`. */
export const templatePath = (name: string) => `templates/${name}.liquid`
/** `latest` → `queries/latest.yaml`. */
export const queryPath = (name: string) => `queries/${name}.yaml`
/** `blog.css` → `assets/blog.css`. */
export const assetPath = (name: string) => `assets/${name}`
