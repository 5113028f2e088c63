/**
 * Problem catalogues. Each area declares its problems once: a stable code, and the function that words the message and
 * the hint. So all texts of an area can be read in one place, a test can check them, and docs/problems.md can list them.
 */

export interface Wording {
  message: string
  hint?: string | undefined
  /** Path of the document that has to be created, if that is what is wrong. */
  missing?: string
}

/** A worded problem without its place. */
export interface Worded {
  code: string
  message: string
  hint?: string
  missing?: string
}

interface Entry<Parts extends readonly unknown[]> {
  word: (...parts: Parts) => Wording
  /** Parts for the list in the documentation. */
  example: Parts
}

/** Declares how one problem is worded, with parts for an example. */
export const wording = <Parts extends readonly unknown[]>(
  word: (...parts: Parts) => Wording,
  ...example: Parts
): Entry<Parts> => ({ word, example })

type Entries = Readonly<Record<string, { word: (...parts: never[]) => Wording; example: readonly unknown[] }>>

export type Catalogue<T extends Entries> = {
  readonly [Code in keyof T]: (...parts: Parameters<T[Code]['word']>) => Worded
}

const EXAMPLES: unique symbol = Symbol('examples')

/** Makes a catalogue: for each code, a function from the problem's parts to the worded problem. */
export function catalogue<const T extends Entries>(entries: T): Catalogue<T> {
  const worded = (code: string, { message, hint, missing }: Wording): Worded => ({
    code,
    message,
    ...(hint === undefined || hint === '' ? {} : { hint }),
    ...(missing === undefined ? {} : { missing }),
  })
  const made = Object.fromEntries(
    Object.entries(entries).map(([code, { word }]) => [
      code,
      (...parts: never[]) => worded(code, word(...parts)),
    ]),
  )
  const examples = Object.entries(entries).map(([code, { word, example }]) =>
    worded(code, word(...(example as never[]))),
  )
  return Object.defineProperty(made, EXAMPLES, { value: examples }) as unknown as Catalogue<T>
}

/** Returns an example of every problem in a catalogue, for documentation and tests. */
export const examplesOf = (one: object): readonly Worded[] =>
  (one as { readonly [EXAMPLES]?: readonly Worded[] })[EXAMPLES] ?? []
