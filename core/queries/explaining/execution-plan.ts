/** PostgreSQL's execution plan of a statement (`EXPLAIN (ANALYZE, BUFFERS, FORMAT JSON)`) as a readable tree. */
import { below, placeInitPlans, type Json } from './init-plans.ts'

export interface PlanNode {
  /** PostgreSQL's name of the step: Seq Scan, Index Scan, Sort … (manual, chapter “Using EXPLAIN”). */
  kind: string
  /** What the step does, in words. */
  sentence: string
  /** Rows it returned over all its runs, and rows that the planner expected. */
  rows: number
  expected: number
  /** Number of its runs: more than one inside a loop. */
  loops: number
  /** Time without and with the steps below it, over all its runs. */
  ownMilliseconds: number
  milliseconds: number
  /** Pages of 8 kB that it and the steps below it used: from PostgreSQL's buffers, and from the operating system. */
  pagesHit: number
  pagesRead: number
  /** The table it reads, and the index it uses. */
  table: string | null
  index: string | null
  /** What deserves attention, as phrases. */
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

/**
 * Reads the result of EXPLAIN with FORMAT JSON.
 * @throws Error if it is no such result
 */
export function readPlan(explained: unknown): Plan {
  const [whole] = Array.isArray(explained) ? (explained as unknown[]) : []
  if (typeof whole !== 'object' || whole === null || !('Plan' in whole))
    throw new Error('Not an execution plan')
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
  // The planner's estimate is for one run.
  const expected = number(node, 'Plan Rows') * Math.max(1, loops)
  return {
    kind: text(node, 'Node Type'),
    sentence: describe(node),
    rows,
    expected,
    loops,
    // PostgreSQL rounds the times of loops.
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

/** From this number of discarded rows on, a note says so. */
const WASTED = 100
/** An estimate is wrong if it differs by this factor and by some rows. */
const FACTOR = 10
const SOME = 100

function notesOf(
  node: Json,
  { rows, expected, loops }: Pick<PlanNode, 'rows' | 'expected' | 'loops'>,
): string[] {
  const notes: string[] = []
  const removed = number(node, 'Rows Removed by Filter') * loops
  if (removed >= WASTED && removed > rows)
    notes.push(`reads ${counted(removed + rows)} rows and keeps ${counted(rows)}`)
  if (loops > 0 && Math.abs(rows - expected) >= SOME && ratio(rows, expected) >= FACTOR)
    notes.push(`expected ${counted(expected)} rows, found ${counted(rows)}`)
  if (text(node, 'Sort Space Type') === 'Disk')
    notes.push(`sorts ${counted(number(node, 'Sort Space Used'))} kB on disk`)
  if (number(node, 'Hash Batches') > 1) notes.push('does not fit into memory and uses the disk')
  if (loops === 0) notes.push('never ran')
  return notes
}

const ratio = (a: number, b: number) => Math.max(a, b, 1) / Math.max(1, Math.min(a, b))
const counted = (value: number) => Math.round(value).toLocaleString('en-GB')

/** Describes what a step does, with its table, index and condition. */
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
  const kept = filter === '' ? '' : `, keeping rows with ${filter}`
  switch (text(node, 'Node Type')) {
    case 'Seq Scan':
      return `reads all of ${table}${kept}`
    case 'Index Scan':
      return `finds rows of ${table} through ${index}${where}${kept}`
    case 'Index Only Scan':
      return `reads ${index} only${where}${kept}`
    case 'Bitmap Index Scan':
      return `collects row positions from ${index}${where}`
    case 'Bitmap Heap Scan':
      return `reads the collected rows of ${table}${kept}`
    case 'BitmapOr':
      return 'combines row positions with OR'
    case 'BitmapAnd':
      return 'combines row positions with AND'
    case 'Nested Loop':
      return `for each row of the first input, searches the second${kept}`
    case 'Hash Join':
      return `matches rows${where}${kept}`
    case 'Merge Join':
      return `merges two sorted inputs${where}${kept}`
    case 'Hash':
      return 'builds a hash table'
    case 'Sort':
      return `sorts by ${keys.join(', ')}`
    case 'Incremental Sort':
      return `sorts by ${keys.join(', ')}, partly sorted already`
    case 'Limit':
      return 'stops when enough rows are found'
    case 'Aggregate':
      return text(node, 'Strategy') === 'Plain' ? 'aggregates all rows' : 'groups rows by key'
    case 'Group':
    case 'Unique':
      return 'removes duplicates'
    case 'WindowAgg':
      return 'numbers rows'
    case 'Materialize':
      return 'stores rows for repeated reads'
    case 'Memoize':
      return 'caches results by key'
    case 'Gather':
    case 'Gather Merge':
      return 'collects the results of parallel workers'
    case 'Append':
    case 'Merge Append':
      return 'concatenates its inputs'
    case 'CTE Scan':
    case 'Subquery Scan':
      return `reads an earlier result${kept}`
    case 'Function Scan':
      return `calls ${table}`
    case 'Values Scan':
      return 'reads a list of values'
    case 'Result':
      return 'computes values'
    case 'Recursive Union':
      return 'adds rows recursively until none is new'
    case 'WorkTable Scan':
      return `reads the rows added last${kept}`
    case 'SetOp':
      return 'compares two results'
    case 'ProjectSet':
      return 'expands one row into several'
    default:
      return text(node, 'Node Type').toLowerCase()
  }
}

/** Simplifies a condition: without the casts and parentheses that PostgreSQL adds. */
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

/** Yields all steps, each before the steps below it. */
export function* nodesOf(root: PlanNode, depth = 0): Generator<{ node: PlanNode; depth: number }> {
  yield { node: root, depth }
  for (const child of root.children) yield* nodesOf(child, depth + 1)
}
