/** What the process of the workbench and those that serve readers say to each other. Plain values only. */
import type { TrafficEntry } from '../reader/traffic.ts'
import type { CopyQuestions } from '../reader/copies.ts'

/** What a process that serves readers is told at first. */
export interface ReaderStart {
  /** The address of the database. It has a password, so it is neither an argument nor in the environment. */
  databaseUrl: string
  /** The addresses of its read replicas. */
  replicas: readonly string[]
  /** The address of the Redis server for shared copies, which may contain a password. */
  redisUrl: string | null
  host: string
  port: number
  /** Whether the next free port is used instead of one that is taken. */
  mayMove: boolean
  trustedProxies: string
  /** The port of the built-in edge cache, from which forms are accepted. */
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
