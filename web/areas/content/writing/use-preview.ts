/** The preview of a page shortly after typing: one request at a time, always for the latest text. */
import { useEffect, useRef, useState } from 'react'
import { errorText } from '../../../shared/words/error-text.ts'

/** How long typing must pause, in milliseconds. */
const DELAY = 60

/**
 * Returns the last preview that could be rendered, and why a later one could not.
 * @param wanted the typed parts as text; a change requests a new preview
 */
export function usePreview<Preview>(
  wanted: string,
  request: (wanted: string) => Promise<Preview>,
  enabled: boolean,
): { preview: Preview | null; problem: string | null } {
  const [preview, setPreview] = useState<Preview | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const isRunning = useRef(false)
  const latestRequest = useRef(request)
  useEffect(() => {
    latestRequest.current = request
  })
  const [done, setDone] = useState<string | null>(null)
  useEffect(() => {
    if (!enabled || done === wanted || isRunning.current) return
    const timer = setTimeout(() => {
      isRunning.current = true
      latestRequest
        .current(wanted)
        .then(
          (found) => {
            setPreview(found)
            setProblem(null)
          },
          (error: unknown) => setProblem(errorText(error)),
        )
        .finally(() => {
          isRunning.current = false
          setDone(wanted)
        })
    }, DELAY)
    return () => clearTimeout(timer)
  }, [enabled, wanted, done])
  return { preview, problem }
}
