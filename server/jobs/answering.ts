/** The thread's side of `thread.ts`. */
import { parentPort } from 'node:worker_threads'
import type { ThreadMessage } from './thread.ts'

/** Answers each question. What is thrown is sent as the answer. */
export function answerWith<Q, A, P = never>(
  work: (question: Q, progress: (step: P) => void) => A | Promise<A>,
): void {
  const send = (message: ThreadMessage<A, P>) => parentPort?.postMessage(message)
  const answer = async (question: Q) => {
    try {
      send({ value: await work(question, (step) => send({ progress: step })) })
    } catch (error) {
      send({ failed: error instanceof Error ? error.message : String(error) })
    }
  }
  parentPort?.on('message', (question: Q) => void answer(question))
  send('ready')
}
