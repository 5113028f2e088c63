/** Carries types from the data of pages through their templates, and reports faults. */
import { namesWithSteps, type FindTree, type FirstSteps } from '../names.ts'
import { pathsOf, pathText, type Expression, type NodeOf, type TemplateNode } from '../tree.ts'
import { givenFaults, missingFaults } from './arguments.ts'
import { idleBranchOf, idlePartOf, rowsSkipped, swappedPlural, timesRead } from './branch-faults.ts'
import { assumed, assumedOfRows, type Assumption } from './conditions.ts'
import { alwaysTrueFault } from './expression-faults.ts'
import { FaultReports } from './fault-reports.ts'
import { FaultCollector, type TemplateFault } from './faults.ts'
import { Nesting, nestingFaults } from './nesting.ts'
import { OutputChecks, plainPathOf, type OutputPosition } from './output-checks.ts'
import { ValueReader, type TypeObserver } from './read-values.ts'
import { Scope } from './scope.ts'
import { BOOLEAN, HTML, NUMBER, row, TEXT, UNKNOWN, withArticle, type Type } from './type.ts'
import type { TypedPage } from './typed-page.ts'

/** Templates inside templates that are followed. */
const DEEPEST = 40
/** Nodes that are read for one page; a partial counts each time it is rendered. */
const MOST_NODES = 30_000
/** Characters of markup that are kept to find the attribute of a value. */
const MARKUP = 2_000

export interface AnalysedTemplates {
  faults: readonly TemplateFault[]
  /** The templates that pages render. */
  templates: ReadonlySet<string>
  /** False if a page has too many nodes to read all of them. Then faults may be missing. */
  isComplete: boolean
}

/** Returns the faults of all templates that pages render. */
export function analyseTemplates(find: FindTree, pages: Iterable<TypedPage>): AnalysedTemplates {
  const faults = new FaultCollector()
  const templates = new Set<string>()
  const read = { argumentsRead: new Map(), readTimes: new Map() }
  const nesting = new Nesting(find)
  let isComplete = true
  for (const page of pages)
    isComplete = new PageReader({ find, nesting, page, faults, templates, ...read }).read() && isComplete
  return { faults: faults.list(isComplete), templates, isComplete }
}

/** Reads the templates of a page for an observer. */
export function observeTypes(find: FindTree, page: TypedPage, observer: TypeObserver): void {
  const faults = new FaultCollector()
  const nesting = new Nesting(find)
  new PageReader({
    find,
    nesting,
    page,
    faults,
    templates: new Set(),
    argumentsRead: new Map(),
    readTimes: new Map(),
    observer,
  }).read()
}

/** The counters of a loop. */
const LOOP = row('loop', {
  ...{ index: NUMBER, index0: NUMBER, rindex: NUMBER, rindex0: NUMBER, length: NUMBER, name: TEXT },
  ...{ first: BOOLEAN, last: BOOLEAN },
})
const TABLE_LOOP = row('loop', {
  ...Object.fromEntries(LOOP.fields),
  ...{ row: NUMBER, col: NUMBER, col0: NUMBER, cols: NUMBER, col_first: BOOLEAN, col_last: BOOLEAN },
})

interface Where extends OutputPosition {
  /** How many templates are around it. */
  depth: number
}

/** Values that say nothing about what a page has to show. */
const OF_REQUEST = new Set(['request', 'blog', 'form'])

/** Whether a condition asks for something that a page can show, or how much there is of it. */
const asksForContent = (condition: Expression): boolean =>
  [...pathsOf(condition)].some(
    (path) => !OF_REQUEST.has(String(path.root)) || pathText(path).endsWith('.size'),
  )

interface Block {
  nodes: readonly TemplateNode[]
  template: string
}

interface Reading {
  find: FindTree
  nesting: Nesting
  page: TypedPage
  faults: FaultCollector
  /** The templates that were read so far. */
  templates: Set<string>
  /** The names that partials read, as far as they are known. */
  argumentsRead: Map<string, ReadonlyMap<string, FirstSteps>>
  /** How often templates read values, as far as it is known. */
  readTimes: Map<string, ReadonlyMap<string, number>>
  observer?: TypeObserver
}

class PageReader {
  readonly #reading: Reading
  readonly #reports: FaultReports
  readonly #values: ValueReader
  readonly #outputs: OutputChecks
  /** The blocks of the page and of inner layouts. */
  readonly #blocks = new Map<string, Block>()
  /** The names of blocks in layouts. */
  readonly #printed = new Set<string>()
  readonly #filled: { node: NodeOf<'block'>; template: string }[] = []
  /** Whether blocks are being collected for a layout. */
  #isCollecting = false
  #nodesRead = 0
  #isComplete = true
  /** The markup before the node. */
  #markup = ''

  constructor(reading: Reading) {
    this.#reading = reading
    this.#reports = new FaultReports(reading.page, reading.faults)
    this.#values = new ValueReader(reading.page, this.#reports, reading.observer)
    this.#outputs = new OutputChecks(this.#values, this.#reports)
  }

  /** Reads the page. @returns whether it was read as a whole */
  read(): boolean {
    const { page, data } = this.#reading.page
    this.#template(page, { scope: new Scope(data), depth: 0, isInLoop: false, isConditional: false })
    for (const { node, template } of this.#filled)
      if (this.#isComplete && !this.#printed.has(node.name))
        this.#reports.report(
          'block-unknown',
          { template, place: node.place, subject: node.name },
          {
            message: `No layout of ${page} has a block “${node.name}”, so it is never printed.`,
            names: [...this.#printed],
          },
        )
    return this.#isComplete
  }

  #template(template: string, at: Omit<Where, 'template'>): void {
    if (!this.#reading.templates.has(template)) this.#checkNesting(template)
    this.#reading.templates.add(template)
    if (at.depth > DEEPEST) this.#isComplete = false
    else this.#nodes(this.#reading.find(template) ?? [], { ...at, template })
  }

  /** Reports elements that are not closed. It is the same for all pages. */
  #checkNesting(template: string): void {
    for (const { tag, place, message, hint } of nestingFaults(this.#reading.nesting, template))
      this.#reports.report('markup-unnested', { template, place, subject: tag }, { message, hint })
  }

  #nodes(nodes: readonly TemplateNode[], at: Where): void {
    for (const node of nodes) {
      if (++this.#nodesRead > MOST_NODES) {
        this.#isComplete = false
        return
      }
      this.#node(node, at)
    }
  }

  #node(node: TemplateNode, at: Where): void {
    const { scope, template } = at
    this.#reading.observer?.node(template, node.place, scope)
    switch (node.kind) {
      case 'text':
        this.#outputs.checkText(node, at)
        return this.#print(node.text)
      case 'output':
        return this.#output(node, at)
      case 'assign':
        return scope.set(node.name, this.#values.expression(node.expression, at))
      case 'capture': {
        const before = this.#markup
        this.#nodes(node.body, at)
        this.#markup = before
        return scope.set(node.name, HTML)
      }
      case 'choice':
        return this.#choice(node, at)
      case 'case':
        return this.#case(node, at)
      case 'loop':
        return this.#loop(node, at)
      case 'cycle':
        for (const one of node.values) this.#values.expression(one, at)
        return this.#print('x')
      case 'count':
        scope.set(node.name, NUMBER)
        return this.#print('0')
      case 'render':
        return this.#render(node, at)
      case 'layout':
        return this.#layout(node, at)
      case 'block':
        return this.#block(node, at)
      case 'fragment':
        for (const one of node.vary) this.#values.expression(one, at)
        return this.#nodes(node.body, { ...at, scope: scope.copy() })
      case 'group':
        return this.#nodes(node.body, at)
      case 'jump':
    }
  }

  /** Reads a body that may not be rendered. @returns the scope after it */
  #body(
    nodes: readonly TemplateNode[],
    at: Where,
    { assumption, isConditional = true }: { assumption?: Assumption; isConditional?: boolean } = {},
  ): Scope {
    const scope = at.scope.copy()
    const before = this.#markup
    for (const [path, type] of assumption ?? []) scope.narrowed.set(path, type)
    this.#outputs.reset()
    this.#nodes(nodes, { ...at, scope, isConditional: at.isConditional || isConditional })
    this.#outputs.reset()
    this.#markup = before
    return scope
  }

  #choice(node: NodeOf<'choice'>, at: Where): void {
    const bodies: Scope[] = []
    const scope = at.scope.copy()
    const here = { ...at, scope }
    const typeOf = (path: readonly string[]) => this.#values.typeOf(path, scope)
    const isConditional = node.branches.some((one) => asksForContent(one.condition))
    for (const { condition, wanted, body } of node.branches) {
      const type = this.#values.expression(condition, here, 'condition')
      this.#checkAlwaysTrue(condition, type, at.template)
      // A value that is always empty never holds.
      const isDead = wanted && type.kind === 'nothing'
      if (!isDead)
        bodies.push(this.#body(body, here, { assumption: assumed(condition, wanted, typeOf), isConditional }))
      for (const [path, known] of assumed(condition, !wanted, typeOf)) scope.narrowed.set(path, known)
    }
    bodies.push(this.#body(node.otherwise, here, { isConditional }))
    at.scope.join(bodies)
    const idle = idleBranchOf(node)
    if (idle)
      this.#reportIdle(
        node,
        at,
        idle === 'all'
          ? 'No branch of this condition prints anything.'
          : `${idle === 'last' ? 'The last' : 'A'} branch of this condition prints nothing.`,
      )
    const swapped = swappedPlural(node)
    if (swapped)
      this.#reports.report(
        'plural-swapped',
        { template: at.template, place: node.place, subject: swapped.one },
        {
          message: `For one, “${swapped.one}” is printed, and for several “${swapped.several}”.`,
          hint: 'Swap the two texts.',
        },
      )
  }

  #reportIdle({ place }: TemplateNode, { template }: Where, message: string): void {
    this.#reports.report(
      'branch-idle',
      { template, place, subject: `line ${place.line}` },
      { message, hint: 'Print something in it, or remove the tags.' },
    )
  }

  /** Reports a condition that holds whatever there is. */
  #checkAlwaysTrue(condition: Expression, type: Type, template: string): void {
    const { path, fault } = alwaysTrueFault(condition, type) ?? {}
    if (!path) return
    const where = { template, place: path.place, subject: pathText(path) }
    if (fault) this.#reports.report('list-always-true', where, fault)
    else this.#reports.noteRight('list-always-true', where)
  }

  #case(node: NodeOf<'case'>, at: Where): void {
    this.#values.expression(node.subject, at)
    const bodies = node.branches.map(({ values, body }) => {
      for (const one of values) this.#values.expression(one, at)
      return this.#body(body, at)
    })
    at.scope.join([...bodies, this.#body(node.otherwise, at)])
  }

  #loop(node: NodeOf<'loop'>, at: Where): void {
    const { scope } = at
    const collection = this.#values.expression(node.collection, at, 'condition')
    for (const one of node.modifiers.values()) if (one) this.#values.expression(one, at)
    const item = this.#itemOf(collection, node, at)
    this.#outputs.checkEmptied(plainPathOf(node.collection), collection, at, node.place)
    this.#checkSkipped(node, at)
    const idle = idlePartOf(node)
    if (idle)
      this.#reportIdle(
        node,
        at,
        idle === 'body'
          ? `The loop over “${node.text}” prints nothing.`
          : `The {% else %} of the loop over “${node.text}” prints nothing, so readers see nothing if the list is empty.`,
      )
    if (collection.kind !== 'nothing') {
      const [counters, type] =
        node.tag === 'for' ? (['forloop', LOOP] as const) : (['tablerowloop', TABLE_LOOP] as const)
      let isChanged = true
      // A second time only if the loop carries values from one iteration into the next.
      for (let time = 0; time < 2 && isChanged; time++) {
        const inner = scope.copy()
        for (const [path, known] of assumedOfRows(collection, (path) => this.#values.typeOf(path, scope)))
          inner.narrowed.set(path, known)
        inner.set(node.variable, item)
        inner.set(counters, type)
        this.#outputs.reset()
        this.#nodes(node.body, { ...at, scope: inner, isInLoop: at.isInLoop || item.kind === 'row' })
        this.#outputs.reset()
        for (const name of [node.variable, counters]) inner.restore(name, scope.names.get(name))
        isChanged = scope.join([scope.copy(), inner])
      }
    }
    scope.join([scope.copy(), this.#body(node.otherwise, at)])
  }

  /** Reports a loop that leaves out the first rows of a list of which nothing else in the template shows them. */
  #checkSkipped(node: NodeOf<'loop'>, { template }: Where): void {
    const skipped = rowsSkipped(node)
    const path = plainPathOf(node.collection)
    // What renders a partial may show the first rows itself.
    if (skipped === 0 || !path || template.startsWith('partials/')) return
    const list = pathText(path)
    const { readTimes, find } = this.#reading
    let times = readTimes.get(template)
    if (!times) readTimes.set(template, (times = timesRead(find(template) ?? [])))
    if ((times.get(list) ?? 0) > 1) return
    this.#reports.report(
      'rows-skipped',
      { template, place: node.place, subject: list },
      {
        message: `The loop over “${list}” leaves out the first ${skipped === 1 ? 'row' : `${skipped} rows`}, and nothing else in the template shows ${skipped === 1 ? 'it' : 'them'}.`,
        hint: 'Remove the offset.',
      },
    )
  }

  #itemOf(collection: Type, { collection: { place }, text }: NodeOf<'loop'>, at: Where): Type {
    if (collection.kind === 'list') return collection.of
    if (collection.kind === 'text') return TEXT
    if (collection.kind === 'row')
      this.#reports.report(
        'row-as-list',
        { template: at.template, place, subject: text },
        {
          message: `“${text}” is ${withArticle(collection.name)}, not a list.`,
          hint: collection.fields.has('items') ? `Loop over ${text}.items.` : 'Loop over a list.',
        },
      )
    return UNKNOWN
  }

  #render(node: NodeOf<'render'>, at: Where): void {
    const { template } = node
    if (template === null) return
    const given = new Map<string, Type>()
    for (const { name, expression, isEach } of node.given) {
      const type = this.#values.expression(expression, at, 'condition')
      given.set(name, isEach ? (type.kind === 'list' ? type.of : UNKNOWN) : type)
      if (isEach) given.set('forloop', LOOP)
    }
    const read = this.#namesRead(template)
    const { page, find } = this.#reading
    const isKnown = (name: string) => at.scope.names.has(name) && !page.globals.has(name)
    this.#reports.reportAll(at.template, [
      ...givenFaults(node, template, given, read),
      ...missingFaults(
        node,
        template,
        [...read.keys()].filter((name) => !given.has(name) && isKnown(name)),
        find,
      ),
    ])
    this.#template(template, { ...at, scope: new Scope(given), depth: at.depth + 1 })
  }

  #namesRead(partial: string): ReadonlyMap<string, FirstSteps> {
    const { find, argumentsRead } = this.#reading
    let names = argumentsRead.get(partial)
    if (!names) {
      names = namesWithSteps(find(partial) ?? [], find, { fragments: 'follow' })
      argumentsRead.set(partial, names)
    }
    return names
  }

  #layout(node: NodeOf<'layout'>, at: Where): void {
    const { template } = node
    if (typeof template !== 'string') return this.#nodes(node.body, at)
    this.#isCollecting = true
    const before = this.#markup
    this.#nodes(node.body, at)
    this.#markup = before
    this.#isCollecting = false
    for (const { name, expression } of node.given) at.scope.set(name, this.#values.expression(expression, at))
    this.#template(template, { ...at, depth: at.depth + 1 })
  }

  #block(node: NodeOf<'block'>, at: Where): void {
    const { name, body } = node
    const known = this.#blocks.get(name)
    if (this.#isCollecting) {
      this.#filled.push({ node, template: at.template })
      if (!known) this.#blocks.set(name, { nodes: body, template: at.template })
      return
    }
    this.#printed.add(name)
    const scope = at.scope.copy()
    scope.set('block', row('block', { super: HTML }))
    const { nodes, template } = known ?? { nodes: body, template: at.template }
    this.#nodes(nodes, { ...at, template, scope })
    scope.restore('block', at.scope.names.get('block'))
    at.scope.join([scope])
  }

  #print(text: string): void {
    this.#markup = (this.#markup + text.slice(-MARKUP)).slice(-MARKUP)
  }

  #output(node: NodeOf<'output'>, at: Where): void {
    const type = this.#values.expression(node.expression, at)
    const markup = this.#markup
    this.#print('x')
    this.#outputs.check(node, { type, markup }, at)
  }
}
