/** PostgreSQL's plan of a statement (`EXPLAIN (ANALYZE, BUFFERS, FORMAT JSON)`) as a tree that can be read. */
import { below, placeInitPlans, type Json } from './init-plans.ts'

export interface PlanNode {
  /** PostgreSQL's name for it: Seq Scan, Index Scan, Sort … (its manual, chapter “Using EXPLAIN”) */
  kind: string
  /** What it does, in words. */
  sentence: string
  /** Rows it gave, over all its runs; and what the planner had expected. */
  rows: number
  expected: number
  /** How many times it ran: more than once within a loop. */
  loops: number
  /** Its own time and with all below it, over all its runs, in milliseconds. */
  ownMilliseconds: number
  milliseconds: number
  /** Pages of 8 kB it and what is below it touched: at hand, and read from the disk or its cache. */
  pagesHit: number
  pagesRead: number
  /** The table it reads, and the index by which; null where it reads none. */
  table: string | null
  index: string | null
  /** What to look at, as a sentence. */
  notes: string[]
  children: PlanNode[]
}

export interface Plan {
  root: PlanNode
  planningMilliseconds: number
  executionMilliseconds: number
}

const number = (node: Json, key: string): number => (typeof node[key] === 'number' ? node[key] : 0)
const text = (node: Json, key: string): string => (typeof node[key] === 'string' ? node[key] : '')
const list = (node: Json, key: string): unknown[] =>
  Array.isArray(node[key]) ? (node[key] as unknown[]) : []

/** @param explained the answer of EXPLAIN with FORMAT JSON @throws when it is no such answer */
export function readPlan(explained: unknown): Plan {
  const [whole] = Array.isArray(explained) ? (explained as unknown[]) : []
  if (typeof whole !== 'object' || whole === null || !('Plan' in whole)) throw new Error('this is no plan')
  const outer = whole as Json
  return {
    root: readNode(placeInitPlans(outer['Plan'] as Json)),
    planningMilliseconds: number(outer, 'Planning Time'),
    executionMilliseconds: number(outer, 'Execution Time'),
  }
}

function readNode(node: Json): PlanNode {
  const children = below(node).map(readNode)
  const loops = number(node, 'Actual Loops')
  const milliseconds = number(node, 'Actual Total Time') * loops
  const others = children.reduce((sum, one) => sum + one.milliseconds, 0)
  const rows = Math.round(number(node, 'Actual Rows') * loops)
  // Of a node that never ran, nothing can be said about what was expected.
  const expected = number(node, 'Plan Rows') * Math.max(1, loops)
  return {
    kind: text(node, 'Node Type'),
    sentence: describe(node),
    rows,
    expected,
    loops,
    // What a node waited for is its children's; clocks of loops can be off by a little.
    ownMilliseconds: Math.max(0, milliseconds - others),
    milliseconds,
    pagesHit: number(node, 'Shared Hit Blocks'),
    pagesRead: number(node, 'Shared Read Blocks'),
    table: text(node, 'Relation Name') || null,
    index: text(node, 'Index Name') || null,
    notes: notesOf(node, { rows, expected, loops }),
    children,
  }
}

/** From this many rows that were read and thrown away. */
const WASTED = 100
/** Estimates are off when they differ by this factor and by some rows. */
const FACTOR = 10
const SOME = 100

function notesOf(
  node: Json,
  { rows, expected, loops }: Pick<PlanNode, 'rows' | 'expected' | 'loops'>,
): string[] {
  const notes: string[] = []
  const removed = number(node, 'Rows Removed by Filter') * loops
  if (removed >= WASTED && removed > rows)
    notes.push(`reads ${counted(removed + rows)} rows to keep ${counted(rows)}`)
  if (loops > 0 && Math.abs(rows - expected) >= SOME && ratio(rows, expected) >= FACTOR)
    notes.push(`${counted(expected)} rows were expected, ${counted(rows)} came`)
  if (text(node, 'Sort Space Type') === 'Disk')
    notes.push(`sorts on the disk, ${counted(number(node, 'Sort Space Used'))} kB`)
  if (number(node, 'Hash Batches') > 1) notes.push('does not fit into memory, and is put on the disk')
  if (loops === 0) notes.push('never ran')
  return notes
}

const ratio = (a: number, b: number) => Math.max(a, b, 1) / Math.max(1, Math.min(a, b))
const counted = (value: number) => Math.round(value).toLocaleString('en-GB')

/** What a node does, with its table, index and condition. */
function describe(node: Json): string {
  const table = text(node, 'Relation Name') || text(node, 'CTE Name') || text(node, 'Function Name')
  const index = text(node, 'Index Name')
  const keys = list(node, 'Sort Key').map((one) => plain(String(one)))
  const condition = plain(
    text(node, 'Index Cond') ||
      text(node, 'Recheck Cond') ||
      text(node, 'Hash Cond') ||
      text(node, 'Merge Cond'),
  )
  const filter = plain(text(node, 'Filter') || text(node, 'Join Filter'))
  const where = condition === '' ? '' : ` where ${condition}`
  const kept = filter === '' ? '' : `, keeps those with ${filter}`
  switch (text(node, 'Node Type')) {
    case 'Seq Scan':
      return `reads all of ${table}${kept}`
    case 'Index Scan':
      return `finds rows of ${table} by ${index}${where}${kept}`
    case 'Index Only Scan':
      return `reads ${index} alone${where}${kept}`
    case 'Bitmap Index Scan':
      return `notes the places that ${index} gives${where}`
    case 'Bitmap Heap Scan':
      return `reads the noted places of ${table}${kept}`
    case 'BitmapOr':
      return 'joins notes: a place in any of them'
    case 'BitmapAnd':
      return 'joins notes: a place in all of them'
    case 'Nested Loop':
      return `for each row of the first, looks into the second${kept}`
    case 'Hash Join':
      return `matches rows${where}${kept}`
    case 'Merge Join':
      return `matches rows that come in order${where}${kept}`
    case 'Hash':
      return 'keeps rows at hand by a key'
    case 'Sort':
      return `sorts by ${keys.join(', ')}`
    case 'Incremental Sort':
      return `sorts by ${keys.join(', ')}, of which the beginning is in order already`
    case 'Limit':
      return 'stops when there are enough'
    case 'Aggregate':
      return text(node, 'Strategy') === 'Plain'
        ? 'counts, or puts all rows into one'
        : 'puts rows with the same key together'
    case 'Group':
    case 'Unique':
      return 'leaves out what is there twice'
    case 'WindowAgg':
      return 'numbers rows'
    case 'Materialize':
      return 'keeps rows at hand, to be read again'
    case 'Memoize':
      return 'remembers what it found for a key'
    case 'Gather':
    case 'Gather Merge':
      return 'collects what several workers found'
    case 'Append':
    case 'Merge Append':
      return 'one after the other'
    case 'CTE Scan':
    case 'Subquery Scan':
      return `reads a result made before${kept}`
    case 'Function Scan':
      return `calls ${table}`
    case 'Values Scan':
      return 'reads a list of values'
    case 'Result':
      return 'works out values'
    case 'Recursive Union':
      return 'begins with some rows, and adds what they lead to until nothing is new'
    case 'WorkTable Scan':
      return `reads what was added last${kept}`
    case 'SetOp':
      return 'compares two results'
    case 'ProjectSet':
      return 'makes several rows of one'
    default:
      return text(node, 'Node Type').toLowerCase()
  }
}

/** Conditions as one writes them: without the casts and parentheses that the planner adds. */
const plain = (condition: string) =>
  condition
    .replace(
      /::(?:text|integer|bigint|boolean|double precision|timestamp with time zone|character varying)(?:\[\])?/g,
      '',
    )
    .replace(/\(([a-z_]+(?:\.[a-z_]+)?)\)/g, '$1')
    .replace(/^\((.*)\)$/, (whole, inner: string) => (isBalanced(inner) ? inner : whole))

function isBalanced(inner: string): boolean {
  let depth = 0
  for (const sign of inner) {
    if (sign === '(') depth++
    else if (sign === ')' && --depth < 0) return false
  }
  return depth === 0
}

/** All nodes, a node before what is below it. */
export function* nodesOf(root: PlanNode, depth = 0): Generator<{ node: PlanNode; depth: number }> {
  yield { node: root, depth }
  for (const child of root.children) yield* nodesOf(child, depth + 1)
}
