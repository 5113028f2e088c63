/** Addresses in the Queries area that run a query with parameters. */

/** The prefix of parameters' names in the address. */
export const PARAMETER = 'with.'

/** Converts the values of a walk to texts. Absent values are left out. */
export function parameterTexts(values: Readonly<Record<string, unknown>>): Record<string, string> {
  return Object.fromEntries(
    Object.entries(values).flatMap(([name, value]) =>
      value === null || value === undefined
        ? []
        : [[name, typeof value === 'string' ? value : JSON.stringify(value)]],
    ),
  )
}

/** Returns the address that runs a query. @param document e.g. `queries/all-posts.yaml` */
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
