/** The thread's side of `thread.ts`. */
import { parentPort } from 'node:worker_threads'
import { ownClock } from './thread-clock.ts'
import type { ThreadMessage, ThreadRequest } from './thread.ts'

/**
 * Answers each question. What is thrown is sent as the answer.
 * @param work is given a question, a function that reports progress, and a signal that is aborted once no answer is needed
 */
export function answerWith<Q, A, P = never>(
  work: (question: Q, progress: (step: P) => void, signal: AbortSignal) => A | Promise<A>,
): void {
  const send = (message: ThreadMessage<A, P>) => parentPort?.postMessage(message)
  let current = new AbortController()
  const answer = async (question: Q) => {
    current = new AbortController()
    try {
      send({ value: await work(question, (step) => send({ progress: step }), current.signal) })
    } catch (error) {
      send({ failed: error instanceof Error ? error.message : String(error) })
    }
  }
  parentPort?.on('message', (request: ThreadRequest<Q>) => {
    if (request === 'abort') current.abort(new Error('It was aborted.'))
    else void answer(request.question)
  })
  send({ ready: ownClock() })
}
