/** Finds the HTML attribute in which a template prints a value. */

/** Where the end of markup is: outside of tags, or inside one, in the value of an attribute or not. */
export type MarkupPosition =
  | { in: 'text' }
  | {
      in: 'tag'
      attribute: string | null
      /** Whether it is in the value of an attribute without quotes. */
      isUnquoted: boolean
    }

/**
 * Returns the position at the end of markup. Reads each character once.
 * @param markup the last part of a page, in which a letter stands for each printed value
 */
export function markupPosition(markup: string): MarkupPosition {
  const start = markup.lastIndexOf('<')
  if (start === -1 || !/[a-z]/i.test(markup.charAt(start + 1))) return { in: 'text' }
  let state: 'between' | 'before-value' | 'unquoted' | '"' | "'" = 'between'
  let name = ''
  let isNewName = true
  for (const char of markup.slice(start + 1)) {
    const isSpace = /\s/.test(char)
    if (state === '"' || state === "'") {
      if (char === state) [state, isNewName] = ['between', true]
    } else if (char === '>') return { in: 'text' }
    else if (state === 'before-value') {
      if (!isSpace) state = char === '"' || char === "'" ? char : 'unquoted'
    } else if (state === 'unquoted') {
      if (isSpace) [state, isNewName] = ['between', true]
    } else if (char === '=') state = 'before-value'
    else if (isSpace) isNewName = true
    else {
      name = isNewName ? char : name + char
      isNewName = false
    }
  }
  return {
    in: 'tag',
    attribute: state === 'between' ? null : name.toLowerCase(),
    isUnquoted: state === 'before-value' || state === 'unquoted',
  }
}
