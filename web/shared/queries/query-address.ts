/** Where a query is tried in the workbench, with parameters and as somebody. */

/** Stands before the name of a parameter in the workbench's address. */
export const PARAMETER = 'with.'

/** Values of a walk as the texts that somebody would type; those that are not there are left out. */
export function parameterTexts(values: Readonly<Record<string, unknown>>): Record<string, string> {
  return Object.fromEntries(
    Object.entries(values).flatMap(([name, value]) =>
      value === null || value === undefined
        ? []
        : [[name, typeof value === 'string' ? value : JSON.stringify(value)]],
    ),
  )
}

/** @param document of the query, e.g. `queries/all-posts.yaml` */
export function queryAddress(
  document: string,
  values: Readonly<Record<string, unknown>>,
  as: 'reader' | 'author',
): string {
  const address = new URLSearchParams({ open: document })
  for (const [name, text] of Object.entries(parameterTexts(values))) address.set(`${PARAMETER}${name}`, text)
  if (as === 'author') address.set('as', as)
  return `/queries?${address.toString()}`
}
