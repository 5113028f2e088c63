/** The page with the texts that are typed, rendered again once typing pauses. */
import { useEffect, useRef, useState } from 'react'
import type { TemplatePreview } from '../../../contract/templates.ts'
import { call } from '../../api/client.ts'
import { errorText } from '../../shared/words/error-text.ts'

/** How long typing must pause, in milliseconds. */
const PAUSE = 250

export interface PreviewRequest {
  document: string
  texts: Readonly<Record<string, string>>
  target: string
  time: number
}

export interface Preview {
  /** The latest answer, and its request. */
  answer: TemplatePreview | undefined
  request: PreviewRequest | undefined
  /** The latest answer that has a page. */
  shown: { page: NonNullable<TemplatePreview['page']>; target: string } | undefined
  error: string | undefined
  isLoading: boolean
}

/** @param version changes whenever something was saved, so that the page is rendered again */
export function usePreview(request: PreviewRequest | undefined, version: number): Preview {
  const [preview, setPreview] = useState<Preview>({
    answer: undefined,
    request: undefined,
    shown: undefined,
    error: undefined,
    isLoading: request !== undefined,
  })
  const last = useRef<Promise<unknown>>(Promise.resolve())
  const isFirst = useRef(true)
  const key = request && JSON.stringify(request)
  useEffect(() => {
    if (key === undefined) return
    const wanted = JSON.parse(key) as PreviewRequest
    let isLive = true
    const ask = async () => {
      // One request at a time: what was typed meanwhile is sent with the next one.
      await last.current
      if (!isLive) return
      setPreview((known) => ({ ...known, isLoading: true }))
      const answered = call('POST /api/template/preview', { body: { ...wanted, texts: { ...wanted.texts } } })
      last.current = answered.catch(() => undefined)
      try {
        const answer = await answered
        if (!isLive) return
        setPreview((known) => ({
          answer,
          request: wanted,
          shown: answer.page ? { page: answer.page, target: wanted.target } : known.shown,
          error: undefined,
          isLoading: false,
        }))
      } catch (error) {
        if (isLive) setPreview((known) => ({ ...known, error: errorText(error), isLoading: false }))
      }
    }
    const timer = setTimeout(() => void ask(), isFirst.current ? 0 : PAUSE)
    isFirst.current = false
    return () => {
      isLive = false
      clearTimeout(timer)
    }
  }, [key, version])
  return preview
}
