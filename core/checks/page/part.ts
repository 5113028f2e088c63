/** A part of a page's contents is collected by a reader of its own, while the page is parsed once. */
import type { ReadPage } from './shape.ts'

export interface PageElement {
  name: string
  attributes: Readonly<Record<string, string>>
  classes: readonly string[]
}

/** The elements around a place. */
export interface Around {
  /** How many there are. */
  readonly depth: number
  /** Whether one of them has this name. */
  has(name: string): boolean
}

/** Reads one part. Methods are called in the order of the page. */
export interface PartReader<T extends Partial<ReadPage> = Partial<ReadPage>> {
  readonly part: T
  /** @param around the elements around it, and itself */
  open?(element: PageElement, around: Around): void
  /** Reads the text between two tags. */
  text?(text: string, around: Around): void
  /** @param around the elements that are left open */
  close?(name: string, around: Around): void
  end?(): void
}
