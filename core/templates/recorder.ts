/** Receives the nodes of a page as they are rendered, for the tools that show where a page comes from. */
import type { Place } from './tree.ts'

/** A place in a template. */
export interface Located extends Place {
  template: string
}

/** Returns the values of all names at a place: name → value, or the error that reading it has thrown. */
export type ReadNames = () => ReadonlyMap<string, NameValue>

export type NameValue = { value: unknown } | { error: unknown }

export interface RenderRecorder {
  /** A node is about to be rendered. */
  entered(at: Located, names: ReadNames): void
  /**
   * A node has printed the characters from one offset of the current text to another.
   * @param isVerbatim whether they are the template's own text, line by line
   */
  printed(at: Located, from: number, to: number, isVerbatim: boolean): void
  /** A new text begins, which is not part of the page yet. */
  textBegun(): void
  /** The text that was begun last has ended. */
  textEnded(text: string): void
  /** A text that has ended is printed at an offset of the current text. */
  textPrinted(text: string, at: number): void
}
