/** The area in which a document is edited, and its language. */
export type Area = 'routes' | 'queries' | 'templates'

/** Returns the address at which a document is edited in the workbench. */
export function documentLink(path: string, line: number | null = null): string {
  const at = line === null ? '' : `&line=${line}`
  if (path === 'routes.yaml') return `/routes?view=yaml${at}`
  if (path === 'blog.yaml') return `/routes?view=settings${at}`
  const [, kind, name = ''] = /^content\/(posts|pages)\/(.+)\.md$/.exec(path) ?? []
  if (kind !== undefined)
    return `/content/${kind}?${kind === 'posts' ? 'post' : 'page'}=${encodeURIComponent(name)}`
  return `/${areaOf(path)}?open=${encodeURIComponent(path)}${at}`
}
export type Language = 'yaml' | 'liquid' | 'markdown' | 'css' | 'javascript'

export function areaOf(path: string): Area {
  if (path.startsWith('queries/')) return 'queries'
  return path.startsWith('templates/') || path.startsWith('assets/') ? 'templates' : 'routes'
}

export function languageOf(path: string): Language {
  const ending = path.split('.').at(-1) ?? ''
  return (
    ({ yaml: 'yaml', liquid: 'liquid', md: 'markdown', css: 'css', js: 'javascript' } as const)[
      ending as 'yaml'
    ] ?? 'liquid'
  )
}
