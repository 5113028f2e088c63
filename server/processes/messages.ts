/** What the process of the workbench and those that serve readers say to each other. Plain values only. */
import type { TrafficEntry } from '../reader/traffic.ts'
import type { CopyQuestions } from '../reader/copies.ts'

/** What a process that serves readers is told at first. */
export interface ReaderStart {
  /** The address of the database. It has a password, so it is neither an argument nor in the environment. */
  databaseUrl: string
  /** The addresses of its read replicas. */
  replicas: readonly string[]
  /** Where pages are shared with other processes. It may have a password, too. */
  redisUrl: string | null
  host: string
  port: number
  /** Whether the next free port is used instead of one that is taken. */
  mayMove: boolean
  trustedProxies: string
  /** Where the built-in edge cache listens, through which forms may be sent. */
  edgePort: number | null
  commentService: string | null
}

export type QuestionName = keyof CopyQuestions

export type ToReader =
  { start: ReaderStart } | { ask: QuestionName; id: number; words: readonly unknown[] } | { stop: true }

export type FromReader =
  /** It can be told what to do. What is sent before is lost. */
  | { loaded: true }
  | { ready: { origin: string; port: number; moved: string[] } }
  | { failed: string }
  | { log: { level: 'info' | 'error'; details: object; message: string } }
  | { traffic: TrafficEntry[] }
  | { id: number; answer: unknown }
  | { id: number; error: string }
