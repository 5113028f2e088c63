/** The arguments of a query: from the address by name, or from the expressions in `with:`. */

/** Returns the name that an expression reads: `post.category.slug` → `post`; a quoted text reads none. */
export function parameterNames(expression: string): string[] {
  if (/^(['"]).*\1$/.test(expression)) return []
  return [expression.split('.')[0] ?? '']
}

/**
 * Evaluates an expression of `with:`: a quoted text, or a path into known values.
 * @param value reads a name: a parameter of the address or other data of the route
 */
export function argumentValue(expression: string, value: (name: string) => unknown): unknown {
  const quoted = /^(['"])(.*)\1$/.exec(expression)
  if (quoted) return quoted[2]
  const [name = '', ...path] = expression.split('.')
  return path.reduce<unknown>(
    (found, key) =>
      typeof found === 'object' && found !== null && Object.hasOwn(found, key)
        ? (found as Record<string, unknown>)[key]
        : undefined,
    value(name),
  )
}
