/** The inputs of compiling a node. */
import type { FragmentInputs } from '../fragment-inputs.ts'
import type { NodeOf, TemplateNode } from '../tree.ts'
import type { Compiling } from './expressions.ts'
import type { Names } from './names.ts'
import type { Located } from '../recorder.ts'
import type { Write } from './rendering.ts'

/** The templates of a definition. */
export interface Templates {
  /** Returns the names of a partial. */
  namesOfPartial(template: string): Names
  /**
   * Returns a template, compiled at its first use. All names are known then: a frame is made after it.
   * @param names of the page or partial that it is rendered in
   */
  template(template: string, names: Names): Write
  /** Returns the inputs of a fragment's body. */
  inputs(fragment: NodeOf<'fragment'>): FragmentInputs
}

/** The position of a node that is compiled. */
export interface NodeCompiling extends Compiling {
  templates: Templates
  template: string
  /** Whether nodes report to the recorder of the rendering. */
  isRecorded: boolean
}

/** Compiles nodes that are rendered one after the other. */
export type CompileNodes = (nodes: readonly TemplateNode[], at: NodeCompiling) => Write

/** Returns the place of a node, for errors. */
export const located = ({ place }: TemplateNode, { template }: NodeCompiling): Located => ({
  ...place,
  template,
})
