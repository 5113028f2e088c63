/** The walked page: as readers see it at three widths, its source, its headers, and its changes. */
import { Button, Segmented } from 'antd'
import { lazy, Suspense } from 'react'
import type { WalkRecord } from '../../../contract/walk-record.ts'
import { Copy } from '../../shared/marks/marks.tsx'
import { formatBytes } from '../../shared/words/format.ts'
import { Diff } from '../../shared/editor/diff.tsx'
import { PageFrame } from '../../shared/page/page-frame.tsx'
import { isData, isImage, isJson } from './stages/is-data.ts'
import { changedLines } from './changes.ts'
import { WIDTHS, type ComparedWalk, type View, type WalkAddress } from './use-walk.ts'
import { words } from './words.ts'

const text = words.page

const CodeEditor = lazy(async () => ({
  default: (await import('../../shared/editor/code-editor.tsx')).CodeEditor,
}))

interface Props {
  record: WalkRecord | undefined
  compared: ComparedWalk | null
  origin: string
  address: WalkAddress
  change(changes: Partial<WalkAddress>): void
  walk(path: string): void
}

export function PagePane({ record, compared, origin, address, change, walk }: Props) {
  const views: View[] = compared ? ['page', 'source', 'headers', 'changes'] : ['page', 'source', 'headers']
  const view = views.includes(address.view) ? address.view : 'page'
  return (
    <section className="pane page-pane" aria-label={text.label}>
      <header>
        <div role="tablist" aria-label={text.views} className="tabs">
          {views.map((one) => (
            <button key={one} role="tab" aria-selected={view === one} onClick={() => change({ view: one })}>
              {one === 'page' && record && isData(record) ? text.data : text[one]}
            </button>
          ))}
        </div>
        <span className="grow" />
        {view === 'page' && !(record && isData(record)) ? (
          <Segmented
            size="small"
            className="widths"
            aria-label={text.widths}
            value={address.width}
            options={[...WIDTHS]}
            onChange={(width) => change({ width })}
          />
        ) : null}
        {view === 'source' && record ? <Copy text={record.response.body} what={text.theSource} /> : null}
      </header>
      {record === undefined ? null : view === 'page' ? (
        <WalkedPage record={record} origin={origin} width={address.width} walk={walk} />
      ) : view === 'source' ? (
        <Code record={record} source={record.response.body} />
      ) : view === 'headers' ? (
        <Headers record={record} />
      ) : compared ? (
        <Changes compared={compared} record={record} />
      ) : null}
    </section>
  )
}

function Code({ record, source }: { record: WalkRecord; source: string }) {
  return (
    <Suspense fallback={<div className="quiet small">{text.openingSource}</div>}>
      <CodeEditor
        key={`${record.id} ${record.version}`}
        text={source}
        // Every JSON text is a YAML text.
        language={isJson(record) ? 'yaml' : 'liquid'}
        height="100%"
        label={isData(record) ? text.data : text.sourceLabel}
      />
    </Suspense>
  )
}

/** For a response without a policy: nothing may load. */
const NO_POLICY = "default-src 'none'"

/** Formats JSON with indentation. */
const indented = (json: string): string => JSON.stringify(JSON.parse(json), null, 2)

/** Shows the response that was walked. A click on a link walks its target. */
function WalkedPage({
  record,
  origin,
  width,
  walk,
}: Pick<Props, 'origin' | 'walk'> & { record: WalkRecord; width: number }) {
  const { location } = record.response.headers
  if (location !== undefined) {
    const path = location.replace(origin, '')
    return (
      <div className="quiet">
        <p>
          {text.redirect(record.response.status)} <code>{path}</code>
        </p>
        <p className="muted">{record.route.note}</p>
        <Button onClick={() => walk(path)}>{text.walkTarget}</Button>
      </div>
    )
  }
  if (isImage(record))
    return (
      <div className="quiet">
        <img className="walked-image" src={`${origin}${record.target}`} alt={record.response.body} />
      </div>
    )
  if (isJson(record)) return <Code record={record} source={indented(record.response.body)} />
  if (isData(record)) return <Code record={record} source={record.response.body} />
  if (record.response.body === '') return <div className="quiet">{text.empty}</div>
  const onClick = (event: MouseEvent, page: Document) => {
    const href = (event.target as Element | null)?.closest('a[href]')?.getAttribute('href')
    if (href === null || href === undefined) return
    const target = new URL(href, page.baseURI)
    if (target.origin !== origin) return
    const path = target.pathname + target.search
    if (path === record.target.replace(/#.*$/, '') && target.hash !== '')
      page.getElementById(target.hash.slice(1))?.scrollIntoView()
    else walk(path)
  }
  return (
    <>
      {record.as === 'author' ? (
        <p className="mark-of-page preview">
          <b>{text.preview}</b> {text.previewNote}
        </p>
      ) : null}
      <PageFrame
        html={record.response.body}
        address={origin + record.target}
        width={width}
        policy={record.response.headers['content-security-policy'] ?? NO_POLICY}
        title={text.frame(record.target)}
        onClick={onClick}
      />
    </>
  )
}

function Headers({ record }: { record: WalkRecord }) {
  const { status, headers, bytes } = record.response
  const lines = Object.entries(headers)
    .map(([name, value]) => `${name}: ${value}`)
    .join('\n')
  return (
    <div className="scroll">
      <p className="line-of-facts">
        <b>{status}</b>{' '}
        <span className="muted">{text.facts(formatBytes(bytes), Object.keys(headers).length)}</span>{' '}
        <Copy text={lines} what={text.theHeaders} />
      </p>
      <table className="headers">
        <tbody>
          {Object.entries(headers).map(([name, value]) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              <td>
                {value.split('; ').map((part, index) => (
                  <div key={index}>{part}</div>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

function Changes({ compared, record }: { compared: ComparedWalk; record: WalkRecord }) {
  const changes = changedLines(compared.record.response.body, record.response.body)
  const isSame = changes.every((one) => one.kind === 'same')
  return (
    <div className="scroll">
      <p className="line-of-facts muted">{text.comparedWith(compared.which)}</p>
      {isSame ? <div className="quiet small">{text.unchanged}</div> : <Diff changes={changes} />}
    </div>
  )
}
