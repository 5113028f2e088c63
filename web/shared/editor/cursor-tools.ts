/** Reports the cursor's line and selection, describes paths under the pointer, and opens the document that is named. */
import { EditorView, hoverTooltip, keymap } from '@codemirror/view'
import type { Extension } from '@codemirror/state'

export interface CursorHandlers {
  /** Called with the line of the cursor when it changes. */
  onLine?: ((line: number) => void) | undefined
  /** Called with the selected range when it changes; equal offsets stand for no selection. */
  onSelection?: ((from: number, to: number) => void) | undefined
  /** Describes the text at an offset: the type and the value of a path. */
  describe?: Describe | undefined
  /** Opens what the text at an offset names. @returns whether it names something */
  follow?: Follow | undefined
}

export type Describe = (text: string, at: number) => { from: number; to: number; lines: string[] } | undefined
export type Follow = (text: string, at: number) => boolean

/** Its extensions call the latest handlers, so an editor is not set up again for new ones. */
export class CursorTools {
  #handlers: CursorHandlers = {}
  #line = 0
  #selected = ''
  readonly extensions: Extension

  constructor() {
    const follow: Follow = (text, at) => this.#handlers.follow?.(text, at) ?? false
    this.extensions = [
      EditorView.updateListener.of(({ state }) => {
        const { head, from, to } = state.selection.main
        this.#at(state.doc.lineAt(head).number)
        this.#select(from, to)
      }),
      hoverTooltip((view, at) => {
        const found = this.#handlers.describe?.(view.state.doc.toString(), at)
        if (!found) return null
        return { pos: found.from, end: found.to, above: true, create: () => ({ dom: linesOf(found.lines) }) }
      }),
      keymap.of([
        { key: 'F12', run: ({ state }) => follow(state.doc.toString(), state.selection.main.head) },
      ]),
      EditorView.domEventHandlers({
        mousedown: (event, view) => {
          if (!(event.ctrlKey || event.metaKey) || event.button !== 0) return false
          const at = view.posAtCoords({ x: event.clientX, y: event.clientY })
          return at !== null && follow(view.state.doc.toString(), at)
        },
      }),
    ]
  }

  use(handlers: CursorHandlers): void {
    this.#handlers = handlers
  }

  #select(from: number, to: number): void {
    const selected = `${from} ${to}`
    if (selected === this.#selected) return
    this.#selected = selected
    this.#handlers.onSelection?.(from, to)
  }

  #at(line: number): void {
    if (line === this.#line) return
    this.#line = line
    this.#handlers.onLine?.(line)
  }
}

function linesOf(lines: readonly string[]): HTMLElement {
  const dom = document.createElement('div')
  dom.className = 'cm-description'
  for (const line of lines) dom.append(Object.assign(document.createElement('div'), { textContent: line }))
  return dom
}
