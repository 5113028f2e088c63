/** The stages of a walked request, in order: what went in, what came out, how long it took and why. */
import { Button, Select } from 'antd'
import { useEffect, type ReactNode } from 'react'
import type { WalkFailure, WalkRecord } from '../../../contract/operations.ts'
import { DocumentEditor } from '../../shared/editor/document-editor.tsx'
import type { Saved } from '../../shared/editor/use-document.ts'
import { Chip, Time } from '../../shared/marks/marks.tsx'
import { asSentence, formatMilliseconds, plural } from '../../shared/words/words.ts'
import { stagesToLookAt, type StageName } from '../../shared/frame/attention.ts'
import { compareWalks, type Difference } from './changes.ts'
import { FragmentsStage } from './stages/fragments-stage.tsx'
import { ParametersStage } from './stages/parameters-stage.tsx'
import { QueriesStage } from './stages/queries-stage.tsx'
import { ResponseStage } from './stages/response-stage.tsx'
import { RouteStage } from './stages/route-stage.tsx'
import { TemplatesStage } from './stages/templates-stage.tsx'
import type { StageTools } from './stages/stage-tools.ts'
import type { Gets, WalkAddress, Watcher } from './use-walk.ts'
import './stages/stages.css'

export interface JourneyProps {
  record: WalkRecord
  before: { record: WalkRecord; why: string } | null
  lastSave: Saved | null
  address: WalkAddress
  busy: boolean
  change(changes: Partial<WalkAddress>): void
  saved(saved: Saved): void
  undo(): void
  forget(): void
}

export function Journey({
  record,
  before,
  lastSave,
  address,
  busy,
  change,
  saved,
  undo,
  forget,
}: JourneyProps) {
  const attention = stagesToLookAt(record)
  const differences = before ? compareWalks(before.record, record) : []
  const { edit, line } = address
  const editor =
    edit === null ? null : (
      <DocumentEditor
        key={edit}
        path={edit}
        line={line}
        height="260px"
        onSaved={saved}
        onClose={() => change({ edit: null, line: undefined })}
      />
    )
  useEffect(() => {
    if (edit === null) return
    const frame = requestAnimationFrame(() =>
      document.querySelector('.journey-pane .editor')?.scrollIntoView({ block: 'nearest' }),
    )
    return () => cancelAnimationFrame(frame)
  }, [edit])
  const tools: StageTools = {
    open: (document, at) => change({ edit: document, line: at }),
    editorAt: (place) => (editor !== null && place === editorPlace(edit, record) ? editor : null),
    watch: (as) => change({ as }),
  }
  const stage = (name: StageName, title: ReactNode, time: number | null, body: ReactNode) => (
    <Stage
      key={name}
      name={name}
      title={title}
      time={time}
      warn={attention.includes(name)}
      differences={differences.filter((one) => one.stage === name)}
      failure={failureIn(record.failure, name)}
      tools={tools}
    >
      {body}
    </Stage>
  )
  const hits = record.fragments.filter((one) => one.outcome === 'hit').length
  const rows = record.queries.runs.reduce((sum, run) => sum + run.rows, 0)
  const asked = record.queries.runs.filter((run) => run.outcome !== 'not-run').length
  const stages = [
    stage(
      'route',
      <RouteStage.Title record={record} />,
      record.route.milliseconds,
      <RouteStage record={record} tools={tools} />,
    ),
    stage('parameters', 'Parameters', null, <ParametersStage record={record} />),
    stage('queries', 'Queries', record.queries.milliseconds, <QueriesStage record={record} tools={tools} />),
    stage(
      'templates',
      <TemplatesStage.Title record={record} />,
      record.templates.milliseconds,
      <TemplatesStage record={record} tools={tools} />,
    ),
    stage('fragments', 'Fragments', null, <FragmentsStage record={record} tools={tools} />),
    stage('response', <ResponseStage.Title record={record} />, null, <ResponseStage record={record} />),
  ]
  return (
    <section className="pane journey-pane" aria-label="The stages of the request" aria-busy={busy}>
      <header>
        <b className="ink" role="status">
          {record.response.status} in {formatMilliseconds(record.milliseconds)}
        </b>
        {record.fragments.length > 0 ? (
          <Chip
            tone={hits === record.fragments.length ? 'fine' : 'plain'}
          >{`${hits} of ${plural(record.fragments.length, 'fragment')} from the store`}</Chip>
        ) : null}
        {asked > 0 ? <Chip>{`${plural(asked, 'query', 'queries')}, ${plural(rows, 'row')}`}</Chip> : null}
        <span className="grow" />
        <label htmlFor="watcher">as</label>
        <Select
          id="watcher"
          size="small"
          variant="borderless"
          value={address.as}
          onChange={(as: Watcher) => change({ as })}
          options={[
            { value: 'reader', label: 'a reader' },
            { value: 'author', label: 'the author' },
          ]}
          popupMatchSelectWidth={false}
        />
        {record.route.json || address.gets === 'data' ? (
          <Select
            aria-label="What is asked for"
            size="small"
            variant="borderless"
            value={address.gets}
            onChange={(gets: Gets) => change({ gets })}
            options={[
              { value: 'page', label: 'the page' },
              { value: 'data', label: 'the data' },
            ]}
            popupMatchSelectWidth={false}
          />
        ) : null}
      </header>
      {before ? (
        <div className="compared" role="status">
          <div>
            <b>{lastSave ? `Saved ${lastSave.answer.path}.` : 'Compared with “before”.'}</b>{' '}
            {differences.length === 0
              ? 'Nothing changed in this walk.'
              : `Changed: ${differences.map((one) => one.sentence).join(' · ')}.`}
            {lastSave && lastSave.answer.purged.length > 0 ? (
              <span className="muted">
                {' '}
                {plural(lastSave.answer.purged.length, 'kept copy', 'kept copies')} had to go.
              </span>
            ) : null}
          </div>
          {lastSave ? (
            <Button size="small" onClick={undo}>
              Undo
            </Button>
          ) : null}
          <Button size="small" onClick={() => change({ view: 'changes' })}>
            Changed lines
          </Button>
          <Button size="small" type="text" onClick={forget} aria-label="Stop comparing">
            ✕
          </Button>
        </div>
      ) : null}
      <div className="scroll">
        <div className="stages">{stages}</div>
        {tools.editorAt('end')}
      </div>
    </section>
  )
}

/** Where the open document's editor stands: in the stage that it decides. */
function editorPlace(document: string | null, record: WalkRecord): string {
  if (document === null) return 'nowhere'
  if (document === 'routes.yaml' || document === 'blog.yaml') return 'route'
  const { runs } = record.queries
  if (runs.some((run) => run.document === document)) return document
  if (runs.length > 0 && /^(queries|content)\//.test(document)) return 'queries'
  return record.templates.page !== null && /^(templates|assets)\//.test(document) ? 'templates' : 'end'
}

const failureIn = (failure: WalkFailure | null, stage: StageName) => {
  if (failure === null) return null
  const place = failure.stage === 'address' || failure.stage === 'action' ? 'route' : failure.stage
  return place === stage ? failure : null
}

interface StageProps {
  name: StageName
  title: ReactNode
  time: number | null
  warn: boolean
  differences: Difference[]
  failure: WalkFailure | null
  tools: StageTools
  children: ReactNode
}

function Stage({ name, title, time, warn, differences, failure, tools, children }: StageProps) {
  const place = failure?.place
  return (
    <section className={`stage${warn ? ' warn' : ''}`} id={`stage-${name}`}>
      <i aria-hidden="true" />
      <h2>
        {title}
        {warn ? <span className="unseen"> (something to look at)</span> : null}
        {differences.length > 0 ? (
          <Chip tone="look" title={differences.map((one) => one.sentence).join('\n')}>
            changed
          </Chip>
        ) : null}
        {time === null ? null : <Time value={time} />}
      </h2>
      {failure ? (
        <div className="failure" role="alert">
          <b>It failed here.</b> {asSentence(failure.message)}
          {place ? (
            <>
              {' '}
              <button className="link" onClick={() => tools.open(place.document, place.line)}>
                {place.document}
                {place.line === undefined ? '' : `:${place.line}`}
              </button>
            </>
          ) : null}
          {failure.hint ? <div className="muted">Try: {asSentence(failure.hint)}</div> : null}
        </div>
      ) : null}
      {children}
    </section>
  )
}
