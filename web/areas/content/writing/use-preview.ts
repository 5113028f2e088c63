/** The page as it would be, a moment behind the typing: one question at a time, always for what was typed last. */
import { useEffect, useRef, useState } from 'react'
import { ApiProblem } from '../../../api/client.ts'

const AFTER_MILLISECONDS = 60

/**
 * @param wanted what is typed, as text; asked for again whenever it changes
 * @returns the last preview that could be made, and why a newer one could not
 */
export function usePreview<Preview>(
  wanted: string,
  ask: (wanted: string) => Promise<Preview>,
  enabled: boolean,
): { preview: Preview | null; problem: string | null } {
  const [preview, setPreview] = useState<Preview | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const going = useRef(false)
  const asking = useRef(ask)
  useEffect(() => {
    asking.current = ask
  })
  const [done, setDone] = useState<string | null>(null)
  useEffect(() => {
    if (!enabled || done === wanted || going.current) return
    const timer = setTimeout(() => {
      going.current = true
      asking
        .current(wanted)
        .then(
          (found) => {
            setPreview(found)
            setProblem(null)
          },
          (error: unknown) => {
            const details = error instanceof ApiProblem ? error.details : undefined
            setProblem(
              details?.problems?.[0]?.message ?? details?.detail ?? details?.title ?? 'It cannot be shown',
            )
          },
        )
        .finally(() => {
          going.current = false
          setDone(wanted)
        })
    }, AFTER_MILLISECONDS)
    return () => clearTimeout(timer)
  }, [enabled, wanted, done])
  return { preview, problem }
}
