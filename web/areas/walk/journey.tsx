/** The stages of a walked request in order, each with its input, its result, its time and its reasons. */
import { Button, Select } from 'antd'
import { useEffect, useRef, type ReactNode } from 'react'
import type { Accepts, WalkFailure, WalkRecord } from '../../../contract/walk-record.ts'
import { completionFor } from '../../shared/editor/completion.ts'
import { DocumentEditor } from '../../shared/editor/document-editor.tsx'
import type { Saved } from '../../shared/editor/use-document.ts'
import { stagesNeedingAttention, type StageName } from '../../shared/frame/attention.ts'
import { Chip, Time } from '../../shared/marks/marks.tsx'
import { formatMilliseconds } from '../../shared/words/format.ts'
import { compareWalks, type Difference } from './changes.ts'
import { FragmentsStage } from './stages/fragments-stage.tsx'
import { ParametersStage } from './stages/parameters-stage.tsx'
import { QueriesStage } from './stages/queries-stage.tsx'
import { ResponseStage } from './stages/response-stage.tsx'
import { SubmissionStage } from './stages/submission-stage.tsx'
import { RouteStage } from './stages/route-stage.tsx'
import type { StageTools } from './stages/stage-tools.ts'
import { TemplatesStage } from './stages/templates-stage.tsx'
import type { ComparedWalk, WalkAddress, Watcher } from './use-walk.ts'
import { SubmissionForm } from './submission/submission-form.tsx'
import type { Submission } from './submission/use-submission.ts'
import { words } from './words.ts'
import './stages/stages.css'

const text = words.journey

interface Props {
  record: WalkRecord
  compared: ComparedWalk | null
  address: WalkAddress
  submission: Submission
  isBusy: boolean
  change(changes: Partial<WalkAddress>): void
  onSaved(saved: Saved): void
  stopComparing(): void
}

export function Journey({
  record,
  compared,
  address,
  submission,
  isBusy,
  change,
  onSaved,
  stopComparing,
}: Props) {
  const attention = stagesNeedingAttention(record)
  const differences = compared ? compareWalks(compared.record, record) : []
  const { edit, line } = address
  const pane = useRef<HTMLElement>(null)
  const closeEditor = () => {
    change({ edit: null, line: undefined })
    pane.current?.focus()
  }
  const editor =
    edit === null ? null : (
      <DocumentEditor
        key={edit}
        path={edit}
        line={line}
        height="260px"
        complete={completionFor(edit)}
        onSaved={onSaved}
        onClose={closeEditor}
      />
    )
  useEffect(() => {
    if (edit === null) return
    const frame = requestAnimationFrame(() =>
      pane.current?.querySelector('.editor')?.scrollIntoView({ block: 'nearest' }),
    )
    return () => cancelAnimationFrame(frame)
  }, [edit])
  const tools: StageTools = {
    kept: { isOn: address.kept, change: (kept) => change({ kept }) },
    open: (document, at) => change({ edit: document, line: at }),
    editorAt: (place) => (editor !== null && place === editorPlace(edit, record) ? editor : null),
    walkAs: (as) => change({ as }),
  }
  const stage = (name: StageName, title: ReactNode, time: number | null, body: ReactNode) => (
    <Stage
      key={name}
      name={name}
      title={title}
      time={time}
      needsAttention={attention.includes(name)}
      differences={differences.filter((one) => one.stage === name)}
      failure={failureIn(record.failure, name)}
      tools={tools}
    >
      {body}
    </Stage>
  )
  const hits = record.fragments.filter((one) => one.outcome === 'hit').length
  const rows = record.queries.runs.reduce((sum, run) => sum + run.rows, 0)
  const ran = record.queries.runs.filter((run) => run.outcome !== 'not-run').length
  const stages = [
    stage(
      'route',
      <RouteStage.Title record={record} />,
      record.route.milliseconds,
      <RouteStage record={record} tools={tools} />,
    ),
    stage('parameters', words.parameters.title, null, <ParametersStage record={record} />),
    stage(
      'queries',
      words.queries.title,
      record.queries.milliseconds,
      <QueriesStage record={record} tools={tools} />,
    ),
    stage(
      'templates',
      <TemplatesStage.Title record={record} />,
      record.templates.milliseconds,
      <TemplatesStage record={record} tools={tools} />,
    ),
    stage('fragments', words.fragments.title, null, <FragmentsStage record={record} tools={tools} />),
    ...(record.submission
      ? [
          stage(
            'submission',
            <SubmissionStage.Title record={record.submission} walked={submission.walked} />,
            null,
            <SubmissionStage record={record.submission} walked={submission.walked} />,
          ),
        ]
      : []),
    stage('response', <ResponseStage.Title record={record} />, null, <ResponseStage record={record} />),
  ]
  return (
    <section
      ref={pane}
      tabIndex={-1}
      className="pane journey-pane"
      aria-label={text.label}
      aria-busy={isBusy}
    >
      <header>
        <b className="ink" role="status">
          {text.result(record.response.status, formatMilliseconds(record.milliseconds))}
        </b>
        {record.method === 'POST' ? <Chip>{text.sentTo(record.target)}</Chip> : null}
        {record.fragments.length > 0 ? (
          <Chip tone={hits === record.fragments.length ? 'fine' : 'plain'}>
            {text.stored(hits, record.fragments.length)}
          </Chip>
        ) : null}
        {ran > 0 ? <Chip>{text.queries(ran, rows)}</Chip> : null}
        <span className="grow" />
        <label htmlFor="watcher">{text.as}</label>
        <Select
          id="watcher"
          size="small"
          variant="borderless"
          value={address.as}
          onChange={(as: Watcher) => change({ as })}
          options={[
            { value: 'reader', label: text.reader },
            { value: 'author', label: text.author },
            { value: 'commenter', label: text.commenter },
          ]}
          popupMatchSelectWidth={false}
        />
        {record.route.json || address.accepts === 'json' ? (
          <Select
            aria-label={text.accepts}
            size="small"
            variant="borderless"
            value={address.accepts}
            onChange={(accepts: Accepts) => change({ accepts })}
            options={[
              { value: 'html', label: text.html },
              { value: 'json', label: text.json },
            ]}
            popupMatchSelectWidth={false}
          />
        ) : null}
      </header>
      {compared ? (
        <div className="compared" role="status">
          <div>
            <b>{text.comparedWith(compared.which)}</b>{' '}
            {differences.length === 0
              ? text.unchanged
              : text.changed(differences.map((one) => one.sentence).join(' · '))}
          </div>
          <Button size="small" onClick={() => change({ view: 'changes' })}>
            {text.changedLines}
          </Button>
          <Button
            size="small"
            type="text"
            onClick={() => {
              stopComparing()
              pane.current?.focus()
            }}
            aria-label={text.stopComparing}
          >
            ✕
          </Button>
        </div>
      ) : null}
      {address.as === 'commenter' ? <SubmissionForm submission={submission} /> : null}
      <div className="scroll">
        <div className="stages">{stages}</div>
        {tools.editorAt('end')}
      </div>
    </section>
  )
}

/** Returns where the editor is shown: in the stage that the document belongs to. */
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
  needsAttention: boolean
  differences: Difference[]
  failure: WalkFailure | null
  tools: StageTools
  children: ReactNode
}

function Stage({ name, title, time, needsAttention, differences, failure, tools, children }: StageProps) {
  const place = failure?.place
  return (
    <section className={`stage${needsAttention ? ' warn' : ''}`} id={`stage-${name}`}>
      <i aria-hidden="true" />
      <h2>
        {title}
        {needsAttention ? <span className="unseen">{text.attention}</span> : null}
        {differences.length > 0 ? (
          <Chip tone="look" title={differences.map((one) => one.sentence).join('\n')}>
            {text.changedMark}
          </Chip>
        ) : null}
        {time === null ? null : <Time value={time} />}
      </h2>
      {failure ? (
        <div className="failure" role="alert">
          <b>{text.failed}</b> {failure.message}
          {place ? (
            <>
              {' '}
              <button className="link" onClick={() => tools.open(place.document, place.line)}>
                {place.document}
                {place.line === undefined ? '' : `:${place.line}`}
              </button>
            </>
          ) : null}
          {failure.hint ? <div className="muted">{failure.hint}</div> : null}
        </div>
      ) : null}
      {children}
    </section>
  )
}
