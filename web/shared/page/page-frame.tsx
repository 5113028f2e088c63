/** Shows a page of the blog in a frame without scripts, at a given width, scaled to the available space. */
import { useEffect, useRef, useState } from 'react'
import { words } from '../words/words.ts'
import { pageDocument } from './page-document.ts'
import './page-frame.css'

interface Props {
  html: string
  /** The page's address on the blog. */
  address: string
  /** The `content-security-policy` of the page's response. */
  policy: string
  /** In pixels of the page. */
  width: number
  title: string
  /** The id of an element that is scrolled to and outlined. */
  show?: string
  /** Called for a click in the page. No link is followed. */
  onClick?(event: MouseEvent, page: Document): void
  /** Called with the page before it is shown, and again with another function. */
  prepare?(page: Document): void
}

interface Loaded {
  key: number
  page: string
}

export function PageFrame({ html, address, policy, width, title, show, onClick, prepare }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const frames = useRef(new Map<number, HTMLIFrameElement>())
  const after = useRef<HTMLSpanElement>(null)
  const [size, setSize] = useState({ width: 560, height: 500 })
  const page = pageDocument(html, address, policy)
  // A changed page loads in a second frame, which then replaces the first: so it neither flickers nor scrolls.
  const [shown, setShown] = useState<Loaded>({ key: 0, page })
  const [next, setNext] = useState<Loaded | null>(null)
  if ((next ?? shown).page !== page)
    setNext(page === shown.page ? null : { key: (next ?? shown).key + 1, page })
  useEffect(() => {
    const element = box.current
    if (!element) return
    const observer = new ResizeObserver(
      ([entry]) => entry && setSize({ width: entry.contentRect.width, height: entry.contentRect.height }),
    )
    observer.observe(element)
    return () => observer.disconnect()
  }, [])
  const handler = useRef(onClick)
  useEffect(() => {
    handler.current = onClick
  })
  const preparation = useRef(prepare)
  const shownKey = useRef(shown.key)
  useEffect(() => {
    preparation.current = prepare
    const page = frames.current.get(shownKey.current)?.contentDocument
    if (page?.readyState === 'complete') prepare?.(page)
  }, [prepare])
  useEffect(() => {
    shownKey.current = shown.key
  }, [shown.key])
  const onLoad = (loaded: Loaded) => {
    const inside = frames.current.get(loaded.key)?.contentDocument
    if (!inside) return
    inside.addEventListener('click', (event) => {
      if ((event.target as Element | null)?.closest('a, button')) event.preventDefault()
      handler.current?.(event, inside)
    })
    inside.addEventListener('submit', (event) => event.preventDefault())
    const outlined = show === undefined ? null : inside.getElementById(show)
    if (outlined) outline(outlined)
    preparation.current?.(inside)
    if (loaded.key === shown.key) return
    const previous = frames.current.get(shown.key)?.contentDocument?.scrollingElement
    if (previous && !outlined)
      inside.scrollingElement?.scrollTo({ top: previous.scrollTop, behavior: 'instant' })
    setShown(loaded)
    setNext(null)
  }
  const scale = Math.min(1, size.width / width)
  const style = {
    width,
    height: size.height / scale,
    transform: `scale(${scale})`,
    left: Math.max(0, (size.width - width * scale) / 2),
  }
  return (
    <div className="page-frame" ref={box}>
      <button className="skip" onClick={() => after.current?.focus()}>
        {words.skipPage}
      </button>
      {(next === null ? [shown] : [shown, next]).map((one) => (
        <iframe
          key={one.key}
          ref={(frame) => {
            if (frame) frames.current.set(one.key, frame)
            else frames.current.delete(one.key)
          }}
          {...(one === shown ? { title } : { 'aria-hidden': true, tabIndex: -1, className: 'loading' })}
          sandbox="allow-same-origin"
          srcDoc={one.page}
          onLoad={() => onLoad(one)}
          style={style}
        />
      ))}
      <span ref={after} tabIndex={-1} />
    </div>
  )
}

/** Marks an element of a page, whatever the page's own styles are. */
function outline(element: HTMLElement): void {
  // The page in the frame does not have the workbench's tokens.
  const colour = getComputedStyle(document.documentElement).getPropertyValue('--ochre')
  Object.assign(element.style, { outline: `2px dashed ${colour}`, outlineOffset: '6px' })
  element.scrollIntoView({ block: 'center', behavior: 'instant' })
}
