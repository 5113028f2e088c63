/** Which documents a definition consists of, and what kind each one is. */
export type DocumentKind = 'settings' | 'routes' | 'query' | 'indexes' | 'template' | 'asset'

const KINDS: readonly (readonly [RegExp, DocumentKind])[] = [
  [/^blog\.yaml$/, 'settings'],
  [/^routes\.yaml$/, 'routes'],
  [/^indexes\.yaml$/, 'indexes'],
  [/^queries\/[a-z0-9-]+\.yaml$/, 'query'],
  [/^templates\/(layouts|pages|partials)\/[a-z0-9-]+\.liquid$/, 'template'],
  [/^assets\/[a-z0-9-]+\.(css|js)$/, 'asset'],
]

/** Longest document in characters. */
export const DOCUMENT_LIMIT = 200_000

/** The kind of the document at a path, or undefined where no document may live. */
export function documentKind(path: string): DocumentKind | undefined {
  return KINDS.find(([pattern]) => pattern.test(path))?.[1]
}

/** Where no document may live, said with where one may. */
export const unknownName = (file: string) => ({
  file,
  message: 'no document may have this name',
  hint: 'names are small letters, digits and hyphens, such as “queries/latest-posts.yaml” or “templates/partials/card.liquid”',
})

/** `templates/partials/card.liquid` → `partials/card`; `queries/latest.yaml` → `latest`. */
export function documentName(path: string): string {
  return path.replace(/^(templates|queries|assets)\//, '').replace(/\.(liquid|yaml)$/, '')
}

/** `partials/card` → `templates/partials/card.liquid`. */
export const templatePath = (name: string) => `templates/${name}.liquid`
/** `latest` → `queries/latest.yaml`. */
export const queryPath = (name: string) => `queries/${name}.yaml`
