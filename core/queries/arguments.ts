/** Values for a query's parameters: from the address by name, or as `with:` says. */

/** `post.category.slug` → `post`; a quoted text names nothing. */
export function parameterNames(expression: string): string[] {
  if (/^(['"]).*\1$/.test(expression)) return []
  return [expression.split('.')[0] ?? '']
}

/**
 * The value of a `with:` expression: a quoted text, or a path into the values at hand.
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
