/** The walked page: as a reader sees it at three widths, as source, as headers, and what changed. */
import { Button, Segmented } from 'antd'
import { lazy, Suspense } from 'react'
import type { WalkRecord } from '../../../contract/operations.ts'
import { Copy } from '../../shared/marks/marks.tsx'
import { formatBytes, plural } from '../../shared/words/words.ts'
import { Diff } from '../../shared/editor/diff.tsx'
import { PageFrame } from '../../shared/page/page-frame.tsx'
import { isData } from './stages/is-data.ts'
import { changedLines } from './changes.ts'
import { WIDTHS, type View, type WalkAddress } from './use-walk.ts'

const CodeEditor = lazy(async () => ({
  default: (await import('../../shared/editor/code-editor.tsx')).CodeEditor,
}))

interface Props {
  record: WalkRecord | undefined
  before: { record: WalkRecord; why: string } | null
  origin: string
  address: WalkAddress
  change(changes: Partial<WalkAddress>): void
  walk(path: string): void
}

const LABELS: Record<View, string> = {
  page: 'Page',
  source: 'Source',
  headers: 'Headers',
  changes: 'Changed',
}

export function PagePane({ record, before, origin, address, change, walk }: Props) {
  const views: View[] = before ? ['page', 'source', 'headers', 'changes'] : ['page', 'source', 'headers']
  const view = views.includes(address.view) ? address.view : 'page'
  return (
    <section className="pane page-pane" aria-label="The page">
      <header>
        <div role="tablist" aria-label="Views of the page" className="tabs">
          {views.map((one) => (
            <button key={one} role="tab" aria-selected={view === one} onClick={() => change({ view: one })}>
              {one === 'changes' && before
                ? `Changed since “before”`
                : one === 'page' && record && isData(record)
                  ? 'Data'
                  : LABELS[one]}
            </button>
          ))}
        </div>
        <span className="grow" />
        {view === 'page' && !(record && isData(record)) ? (
          <Segmented
            size="small"
            className="widths"
            aria-label="Width in pixels"
            value={address.width}
            options={[...WIDTHS]}
            onChange={(width) => change({ width })}
          />
        ) : null}
        {view === 'source' && record ? <Copy text={record.response.body} what="the source" /> : null}
      </header>
      {record === undefined ? null : view === 'page' ? (
        <WalkedPage record={record} origin={origin} width={address.width} walk={walk} />
      ) : view === 'source' ? (
        <Code record={record} text={record.response.body} />
      ) : view === 'headers' ? (
        <Headers record={record} />
      ) : before ? (
        <Changes before={before} record={record} />
      ) : null}
    </section>
  )
}

function Code({ record, text }: { record: WalkRecord; text: string }) {
  return (
    <Suspense fallback={<div className="quiet small">Opening the source …</div>}>
      <CodeEditor
        key={`${record.id} ${record.version}`}
        text={text}
        // JSON is YAML, too.
        language={isData(record) ? 'yaml' : 'liquid'}
        height="100%"
        label={isData(record) ? 'The data' : 'Source of the page'}
      />
    </Suspense>
  )
}

/** Data as a person reads it. */
const indented = (json: string): string => JSON.stringify(JSON.parse(json), null, 2)

/** Shows the very response that was walked. Links in it are walked, not followed. */
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
          {record.response.status}: the address is <code>{path}</code>
          {record.route.note ? `, ${record.route.note}` : ''}.
        </p>
        <Button onClick={() => walk(path)}>Walk it</Button>
      </div>
    )
  }
  if (isData(record)) return <Code record={record} text={indented(record.response.body)} />
  if (record.response.body === '') return <div className="quiet">The response has no body.</div>
  const clicked = (event: MouseEvent, page: Document) => {
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
          <b>Preview</b> as the author: what is not published yet is shown, marked by its date
        </p>
      ) : null}
      <PageFrame
        html={record.response.body}
        address={origin + record.target}
        width={width}
        title={`The page at ${record.target}`}
        clicked={clicked}
      />
    </>
  )
}

function Headers({ record }: { record: WalkRecord }) {
  const { status, headers, bytes } = record.response
  const text = Object.entries(headers)
    .map(([name, value]) => `${name}: ${value}`)
    .join('\n')
  return (
    <div className="scroll">
      <p className="line-of-facts">
        <b>{status}</b>{' '}
        <span className="muted">
          {formatBytes(bytes)} of body, {plural(Object.keys(headers).length, 'header')}
        </span>{' '}
        <Copy text={text} what="the headers" />
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

function Changes({ before, record }: { before: { record: WalkRecord; why: string }; record: WalkRecord }) {
  const changes = changedLines(before.record.response.body, record.response.body)
  const isSame = changes.every((one) => one.kind === 'same')
  return (
    <div className="scroll">
      <p className="line-of-facts muted">The page compared with the walk held {before.why}.</p>
      {isSame ? (
        <div className="quiet small">The page is the same, to the letter.</div>
      ) : (
        <Diff changes={changes} />
      )}
    </div>
  )
}
