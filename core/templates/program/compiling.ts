/** What compiling nodes needs of the templates around them. */
import type { FragmentInputs } from '../fragment-inputs.ts'
import type { NodeOf, TemplateNode } from '../tree.ts'
import type { Compiling } from './expressions.ts'
import type { Names } from './names.ts'
import type { Write } from './rendering.ts'

/** All templates. */
export interface Templates {
  /** Returns the names of a partial. */
  namesOfPartial(template: string): Names
  /**
   * Returns a template, compiled at its first use. All names are known then: a frame is made after it.
   * @param names of the page or partial that it is rendered in
   */
  template(template: string, names: Names): Write
  /** Returns what the body of a fragment reads. */
  inputs(fragment: NodeOf<'fragment'>): FragmentInputs
}

/** Where nodes are compiled. */
export interface NodeCompiling extends Compiling {
  templates: Templates
  template: string
}

/** Compiles nodes that are rendered one after the other. */
export type CompileNodes = (nodes: readonly TemplateNode[], at: NodeCompiling) => Write
