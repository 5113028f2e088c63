/** The thread's side of `thread.ts`. */
import { parentPort } from 'node:worker_threads'
import type { ThreadAnswer } from './thread.ts'

/** Answers each question. An error is the answer, too. */
export function answerWith<Q, A>(work: (question: Q) => A): void {
  parentPort?.on('message', (question: Q) => {
    let answer: ThreadAnswer<A>
    try {
      answer = { value: work(question) }
    } catch (error) {
      answer = { failed: error instanceof Error ? error.message : String(error) }
    }
    parentPort?.postMessage(answer)
  })
  parentPort?.postMessage('ready' satisfies ThreadAnswer<A>)
}
