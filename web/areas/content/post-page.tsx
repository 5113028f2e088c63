/** The page of a post as it would be, through the blog's own template, a moment behind the typing. */
import { useEffect, useRef, useState } from 'react'
import { ApiProblem, call } from '../../api/client.ts'
import type { Parts } from './use-post.ts'

/** Rendered this wide, then scaled to the pane. */
const WIDTH = 820
const AFTER_MILLISECONDS = 60

interface Preview {
  html: string
  path: string | null
  wordCount: number
  excerpt: string
}

/** @returns the last preview that could be made, and why a newer one could not */
export function usePreview(
  slug: string | null,
  parts: Parts,
  enabled: boolean,
): { preview: Preview | null; problem: string | null } {
  const [preview, setPreview] = useState<Preview | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const wanted = JSON.stringify(parts)
  const going = useRef(false)
  const [done, setDone] = useState<string | null>(null)
  useEffect(() => {
    if (!enabled || done === wanted || going.current) return
    const timer = setTimeout(() => {
      going.current = true
      const { matter, body } = JSON.parse(wanted) as Parts
      const titled = { ...matter, title: matter.title.trim() === '' ? 'Without a title' : matter.title }
      call('POST /api/post/preview', { body: { slug, matter: titled, body } })
        .then(
          (found) => {
            setPreview(found)
            setProblem(found.path === null ? 'No route shows single posts: add one under Routes.' : null)
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
  }, [enabled, wanted, done, slug])
  return { preview, problem }
}

export function PostPage({ html, path, origin }: { html: string; path: string; origin: string }) {
  const box = useRef<HTMLDivElement>(null)
  const frame = useRef<HTMLIFrameElement>(null)
  const [size, setSize] = useState({ width: 500, height: 600 })
  const page = html
    .replace(/<script\b[\s\S]*?<\/script>/gi, '')
    .replace(/<head>/i, `<head><base href="${origin}${path}">`)
  // The first page loads its styles; later ones change only what is in it, so that it neither blinks nor scrolls.
  const [first, setFirst] = useState(page)
  const isLoaded = useRef(false)
  useEffect(() => {
    const inside = frame.current?.contentDocument
    if (!isLoaded.current || !inside?.body) return
    const next = new DOMParser().parseFromString(page, 'text/html')
    if (
      next.head.innerHTML.replace(/<title>[\s\S]*?<\/title>/, '') ===
      inside.head.innerHTML.replace(/<title>[\s\S]*?<\/title>/, '')
    )
      inside.body.replaceChildren(...[...next.body.childNodes].map((node) => inside.importNode(node, true)))
    else {
      isLoaded.current = false
      setFirst(page)
    }
  }, [page])
  useEffect(() => {
    const element = box.current
    if (!element) return
    const observer = new ResizeObserver(
      ([entry]) => entry && setSize({ width: entry.contentRect.width, height: entry.contentRect.height }),
    )
    observer.observe(element)
    return () => observer.disconnect()
  }, [])
  const scale = Math.min(1, size.width / WIDTH)
  return (
    <div className="post-page" ref={box}>
      <iframe
        ref={frame}
        title="The page as it would be"
        sandbox="allow-same-origin"
        srcDoc={first}
        onLoad={() => {
          isLoaded.current = true
          frame.current?.contentDocument?.addEventListener('click', (event) => event.preventDefault())
          frame.current?.contentDocument?.addEventListener('submit', (event) => event.preventDefault())
        }}
        style={{ width: WIDTH, height: size.height / scale, transform: `scale(${scale})` }}
      />
    </div>
  )
}
