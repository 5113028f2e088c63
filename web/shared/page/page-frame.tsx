/** A page of the blog in a frame without scripts, at a width of its own, scaled to the room there is. */
import { useEffect, useRef, useState } from 'react'
import './page-frame.css'

interface Props {
  html: string
  /** Where the page lives: its own links and styles are read from there. */
  address: string
  /** In pixels of the page. */
  width: number
  title: string
  /** A click on something of the page; it leads nowhere by itself. */
  clicked?(event: MouseEvent, page: Document): void
}

export function PageFrame({ html, address, width, title, clicked }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const frame = useRef<HTMLIFrameElement>(null)
  const [size, setSize] = useState({ width: 560, height: 500 })
  const page = html
    .replace(/<script\b[\s\S]*?<\/script>/gi, '')
    .replace(/<head>/i, `<head><base href="${address.replace(/[?#].*$/s, '').replace(/"/g, '%22')}">`)
  // The first page loads its styles; later ones change only what is in it, so that it neither blinks nor scrolls.
  const [first, setFirst] = useState(page)
  const isLoaded = useRef(false)
  useEffect(() => {
    const inside = frame.current?.contentDocument
    if (!isLoaded.current || !inside?.body) return
    const next = new DOMParser().parseFromString(page, 'text/html')
    if (headOf(next) === headOf(inside))
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
  const tell = useRef(clicked)
  useEffect(() => {
    tell.current = clicked
  })
  const onLoad = () => {
    isLoaded.current = true
    const inside = frame.current?.contentDocument
    inside?.addEventListener('click', (event) => {
      if ((event.target as Element | null)?.closest('a, button')) event.preventDefault()
      tell.current?.(event, inside)
    })
    inside?.addEventListener('submit', (event) => event.preventDefault())
  }
  const scale = Math.min(1, size.width / width)
  return (
    <div className="page-frame" ref={box}>
      <iframe
        ref={frame}
        title={title}
        sandbox="allow-same-origin"
        srcDoc={first}
        onLoad={onLoad}
        style={{
          width,
          height: size.height / scale,
          transform: `scale(${scale})`,
          left: Math.max(0, (size.width - width * scale) / 2),
        }}
      />
    </div>
  )
}

const headOf = ({ head }: Document) => head.innerHTML.replace(/<title>[\s\S]*?<\/title>/, '')
