/** The page as it would be, with unsaved texts. A click selects the line that has printed what is under the pointer. */
import { Button, Input, Segmented } from 'antd'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import { documentName } from '../../../core/shapes/documents.ts'
import { PageFrame } from '../../shared/page/page-frame.tsx'
import { elementsOf, placeUnder } from './printed.ts'
import { restyle, type Scheme } from './restyle.ts'
import { outlineElements } from './outline.ts'
import type { Preview } from './use-preview.ts'
import { words } from './words.ts'

const text = words.preview

export const WIDTHS = [390, 600, 820, 1080] as const

interface Props {
  preview: Preview
  origin: string
  document: string
  line: number
  target: string | undefined
  width: number
  scheme: Scheme
  /** Stylesheets by their names in `/assets/`. */
  styles: Readonly<Record<string, string>>
  hasUnsaved: boolean
  change(changes: { path?: string; width?: number; scheme?: Scheme }): void
  select(place: { document: string; line: number; time: number }): void
}

export function PagePreview(props: Props) {
  const { preview, target, width, scheme, change, hasUnsaved } = props
  const [typed, setTyped] = useState<string>()
  const go = () => {
    const path = typed?.trim()
    if (path) change({ path: path.startsWith('/') ? path : `/${path}` })
    setTyped(undefined)
  }
  return (
    <section className="pane preview" aria-label={text.title}>
      <header>
        <Input
          size="small"
          className="target"
          aria-label={text.address}
          value={typed ?? target ?? ''}
          placeholder="/"
          onChange={(event) => setTyped(event.target.value)}
          onPressEnter={go}
          onBlur={go}
        />
        <Segmented
          size="small"
          aria-label={text.widths}
          value={width}
          options={[...WIDTHS]}
          onChange={(next) => change({ width: next })}
        />
        <Segmented<Scheme>
          size="small"
          aria-label={text.schemes}
          value={scheme}
          options={[
            { value: 'light', label: text.light },
            { value: 'dark', label: text.dark },
          ]}
          onChange={(next) => change({ scheme: next })}
        />
      </header>
      <Shown {...props} />
      <footer>
        <span className="muted" role="status" title={text.followHint}>
          {preview.isLoading ? text.loading : hasUnsaved ? text.as.unsaved : text.as.saved} · {text.clickHint}
        </span>
        <span className="grow" />
        {target === undefined ? null : (
          <Link to={`/walk?path=${encodeURIComponent(target)}`}>{text.walk}</Link>
        )}
      </footer>
    </section>
  )
}

function Shown({ preview, origin, document, line, target, width, scheme, styles, change, select }: Props) {
  const { answer, shown, error, request } = preview
  const page = shown?.page
  const label = `${documentName(document).replace(/^\w+\//, '')}:${line}`
  // The outline is drawn with every change of the line, and again once the page was loaded.
  const prepare = useMemo(() => {
    if (!page) return undefined
    return (inside: Document) => {
      restyle(inside, styles, scheme)
      outlineElements(inside, elementsOf(page, document, line, inside), label)
    }
  }, [page, document, line, label, styles, scheme])
  if (target === undefined) return <div className="quiet">{text.noAddress}</div>
  const notice = error ?? (answer && answer.problems.length > 0 ? text.invalid : undefined)
  if (!page || !shown) return <div className="quiet">{notice ?? text.loading}</div>
  if (page.location !== null) {
    const to = page.location.replace(origin, '')
    return (
      <div className="quiet">
        <p>{text.redirect(page.status, to)}</p>
        <Button onClick={() => change({ path: to })}>{text.follow}</Button>
      </div>
    )
  }
  if (page.failure) {
    const { message, hint, document: where, line: at } = page.failure
    return (
      <div className="quiet" role="alert">
        <p>
          <b>{text.failed(page.status)}</b>
        </p>
        <p>
          {message} {hint}
        </p>
        {where === null ? null : (
          <Button onClick={() => select({ document: where, line: at ?? 1, time: 1 })}>
            {words.problems.elsewhere(where, at ?? undefined)}
          </Button>
        )}
      </div>
    )
  }
  if (!/^\s*</.test(page.html)) return <div className="quiet">{text.notHtml}</div>
  const isElsewhere =
    request?.document === document && answer?.times === 0 && document.startsWith('templates/')
  const onClick = (event: MouseEvent, inside: Document) => {
    const href = (event.target as Element | null)?.closest('a[href]')?.getAttribute('href')
    if (href && (event.ctrlKey || event.metaKey)) {
      const to = new URL(href, inside.baseURI)
      if (to.origin === origin) change({ path: to.pathname + to.search })
      return
    }
    const place = placeUnder(page, event, inside)
    if (place) select(place)
  }
  return (
    <>
      {notice === undefined ? null : (
        <p className="mark-of-page preview" role="status">
          {notice}
        </p>
      )}
      {page.status === 200 ? null : <p className="mark-of-page">{text.status(page.status)}</p>}
      {isElsewhere ? <p className="mark-of-page">{text.notRendered(documentName(document))}</p> : null}
      <PageFrame
        html={page.html}
        address={origin + shown.target}
        policy={page.policy ?? "default-src 'none'"}
        width={width}
        title={text.frame(shown.target)}
        onClick={onClick}
        {...(prepare ? { prepare } : {})}
      />
    </>
  )
}
