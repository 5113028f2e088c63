/** The page of a post or page as it would be, through the blog's own template, marked as what readers do not see yet. */
import { useEffect, useRef, useState } from 'react'

/** Rendered this wide, then scaled to the pane. */
const WIDTH = 820

interface Props {
  html: string
  path: string
  origin: string
  /** What readers get at the same address. */
  readers: string
  /** True when that is something else. */
  isPreview: boolean
}

export function WrittenPage({ html, path, origin, readers, isPreview }: Props) {
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
    <div className="post-page">
      <p className={isPreview ? 'mark preview' : 'mark'}>
        {isPreview ? <b>Preview </b> : null}
        {readers}
      </p>
      <div className="frame" ref={box}>
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
    </div>
  )
}
