/** Records the partials and layouts of a rendering, and adds up their times. */
import { templatePath } from '../../../core/shapes/documents.ts'
import type { WalkTemplate } from '../../../contract/walk-record.ts'

interface Call {
  name: string
  from: { file: string; line: number } | null
  start: number
  /** The time of the templates that it renders, in milliseconds. */
  inner: number
}

export class TemplateRecorder {
  readonly #stack: Call[] = []
  readonly #totals = new Map<string, WalkTemplate>()

  enterTemplate(name: string, from: { file: string; line: number } | null): void {
    this.#stack.push({ name, from, start: performance.now(), inner: 0 })
  }

  leaveTemplate(): void {
    const call = this.#stack.pop()
    if (!call) return
    const milliseconds = performance.now() - call.start
    const outer = this.#stack.at(-1)
    if (outer) outer.inner += milliseconds
    const key = `${call.name} ${call.from?.file ?? ''}:${call.from?.line ?? 0}`
    const known = this.#totals.get(key)
    if (known) {
      known.count++
      known.milliseconds += milliseconds
      known.self += milliseconds - call.inner
      return
    }
    this.#totals.set(key, {
      name: call.name,
      document: templatePath(call.name),
      calledFrom: call.from && { document: templatePath(call.from.file), line: call.from.line },
      depth: 0,
      count: 1,
      milliseconds,
      self: milliseconds - call.inner,
    })
  }

  /** Returns each template followed by those that it renders. */
  tree(): WalkTemplate[] {
    const all = [...this.#totals.values()]
    const ordered: WalkTemplate[] = []
    const add = (template: WalkTemplate, depth: number) => {
      if (ordered.includes(template) || depth > 20) return
      template.depth = depth
      ordered.push(template)
      const own = all.filter((one) => one.calledFrom?.document === template.document)
      for (const one of own.sort((a, b) => (a.calledFrom?.line ?? 0) - (b.calledFrom?.line ?? 0)))
        add(one, depth + 1)
    }
    for (const root of all.filter((one) => one.calledFrom === null)) add(root, 0)
    return ordered
  }
}
