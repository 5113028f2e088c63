/** Simulates settings in a worker, and gives the answers to the latest question. */
import { useEffect, useRef, useState } from 'react'
import type { WhatIf } from '../../../../core/caching/what-if/simulate.ts'
import type { Simulated } from './what-if-worker.ts'

export function useWhatIf(settings: readonly WhatIf[]): {
  answers: readonly Simulated[]
  isPending: boolean
} {
  const [answered, setAnswered] = useState<{ question: string; answers: Simulated[] }>({
    question: '',
    answers: [],
  })
  const worker = useRef<Worker | null>(null)
  const question = JSON.stringify(settings)
  useEffect(() => {
    const own = new Worker(new URL('./what-if-worker.ts', import.meta.url), { type: 'module' })
    worker.current = own
    return () => own.terminate()
  }, [])
  useEffect(() => {
    const own = worker.current
    if (!own) return
    const id = Math.random()
    own.onmessage = ({ data }: MessageEvent<{ id: number; answers: Simulated[] }>) => {
      if (data.id === id) setAnswered({ question, answers: data.answers })
    }
    own.postMessage({ id, settings: JSON.parse(question) as WhatIf[] })
  }, [question])
  return { answers: answered.answers, isPending: answered.question !== question }
}
