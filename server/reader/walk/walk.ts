/** Records a request as it is answered. Absent (undefined) when nobody watches: then nothing is recorded. */
import { templatePath } from '../../../core/shapes/documents.ts'
import type { TemplateTrace } from '../../../core/templates/scope.ts'
import type { SiteQuery } from '../../publish/site.ts'
import type { WalkQuery, WalkRecord, WalkTemplate } from '../../../contract/walk-record.ts'

interface Call {
  name: string
  from: { file: string; line: number } | null
  start: number
  inner: number
}

/** Follows partials and layouts while they are rendered, and adds up their times. */
class TemplateRecorder implements TemplateTrace {
  readonly #stack: Call[] = []
  readonly #totals = new Map<string, WalkTemplate>()

  enter(name: string, from: { file: string; line: number } | null): void {
    this.#stack.push({ name, from, start: performance.now(), inner: 0 })
  }

  leave(): void {
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

  /** Callers before what they call, each followed by its own. */
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

export class Walk {
  readonly record: WalkRecord
  /** Queries that returned nothing: `why-empty.ts` looks into them after the request is answered. */
  readonly emptyRuns: { run: WalkQuery; query: SiteQuery; parameters: Record<string, unknown> }[] = []
  trace = new TemplateRecorder()

  constructor(
    request: {
      id: string
      method: string
      target: string
      as: 'reader' | 'author'
      gets?: WalkRecord['gets']
    },
    at: Date,
    version: string,
  ) {
    this.record = {
      id: request.id,
      at: at.toISOString(),
      method: request.method,
      target: request.target,
      as: request.as,
      gets: request.gets ?? 'page',
      milliseconds: 0,
      route: {
        name: null,
        pattern: null,
        json: false,
        place: null,
        candidates: [],
        total: 0,
        note: null,
        milliseconds: 0,
      },
      parameters: [],
      queries: { runs: [], milliseconds: 0 },
      templates: { page: null, tree: [], rounds: 0, milliseconds: 0 },
      fragments: [],
      response: { status: 0, headers: {}, bytes: 0, body: '', milliseconds: 0 },
      failure: null,
      version,
    }
  }

  /** A rendering begins (again): times of an unfinished one are forgotten. */
  beginRendering(page: string): TemplateTrace {
    this.trace = new TemplateRecorder()
    this.record.templates.rounds++
    this.record.templates.page = page
    this.trace.enter(page, null)
    return this.trace
  }

  endRendering(): void {
    this.trace.leave()
    this.record.templates.tree = this.trace.tree()
  }
}
