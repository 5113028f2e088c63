/** The Queries area: the queries, their rows, and how PostgreSQL runs them. */
import { Button, Segmented } from 'antd'
import { useRef, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import type { QuerySummary } from '../../../contract/queries.ts'
import { queryPath } from '../../../core/shapes/documents.ts'
import { useRead } from '../../api/queries.ts'
import { DocumentEditor } from '../../shared/editor/document-editor.tsx'
import { Chip, Copy, Plate, Unsaved } from '../../shared/marks/marks.tsx'
import { Sql, withValues } from '../../shared/queries/sql.tsx'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { starterOf } from '../../shared/editor/starters.ts'
import { NewDocument } from '../../shared/editor/new-document.tsx'
import { focusLater } from '../../shared/focus/focus.ts'
import { errorText } from '../../shared/words/error-text.ts'
import { asSentence } from '../../shared/words/format.ts'
import { words as shared } from '../../shared/words/words.ts'
import { useUnsavedTexts } from '../../shared/editor/unsaved-texts.ts'
import { completeQuery } from '../../../core/queries/authoring/complete.ts'
import { OwnIndexesPane } from './own-indexes.tsx'
import { QueryBuilder } from './builder/query-builder.tsx'
import { QueryGrowth } from './query-growth.tsx'
import { QueryPlanView } from '../../shared/queries/query-plan.tsx'
import { QueryRows } from './query-rows.tsx'
import { useRunSettings, VIEWS } from './run-settings.ts'
import { useQueryRun, type RunRequest } from './use-query-run.ts'
import { words } from './words.ts'
import './queries.css'

const text = words.query

const INDEXES = 'indexes.yaml'
const NONE: readonly QuerySummary[] = []
const nameOf = (path: string | null) => /^queries\/(.+)\.yaml$/.exec(path ?? '')?.[1]

export function QueriesScreen() {
  const [parameters, setParameters] = useSearchParams()
  const list = useRead('GET /api/queries', {})
  const queries = list.data ?? NONE
  const isIndexes = parameters.get('open') === INDEXES
  const name = isIndexes ? undefined : (nameOf(parameters.get('open')) ?? queries[0]?.name)
  const choose = (next: string) => {
    if (next !== name) setParameters({ open: queryPath(next) })
  }
  const isUnknown = name !== undefined && list.data !== undefined && !queries.some((one) => one.name === name)
  const unsaved = useUnsavedTexts(({ of }) => of)
  const names = useRef<HTMLUListElement>(null)
  return (
    <main className="queries">
      <section className="pane" aria-label={words.title}>
        <header>
          <h1>{words.title}</h1>
          <span className="muted">{list.data ? queries.length : ''}</span>
        </header>
        <ul className="scroll names" ref={names}>
          {queries.map((one) => (
            <li key={one.name}>
              <button
                type="button"
                aria-current={one.name === name}
                onClick={() => choose(one.name)}
                ref={(element) => {
                  if (one.name === name) element?.scrollIntoView({ block: 'nearest' })
                }}
              >
                <b>
                  {one.name} {unsaved[queryPath(one.name)] ? <Unsaved /> : null}
                </b>
                <span className="muted">{summaryOf(one)}</span>
              </button>
            </li>
          ))}
          {list.error ? <li className="quiet small">{list.error.message}</li> : null}
          {list.data?.length === 0 ? <li className="quiet small">{words.empty}</li> : null}
        </ul>
        <button
          type="button"
          className="indexes"
          aria-current={isIndexes}
          onClick={() => setParameters({ open: INDEXES })}
        >
          {words.indexes}
        </button>
        <NewDocument
          hint={words.newQuery}
          starter={(next) => starterOf(queryPath(next)) ?? ''}
          pathOf={queryPath}
          onCreated={choose}
        />
      </section>
      {isIndexes ? (
        <OwnIndexesPane
          line={Number(parameters.get('line')) || undefined}
          queries={queries.map((one) => one.name)}
          open={choose}
        />
      ) : name === undefined ? (
        <section className="pane wide">
          <div className="quiet">
            <h1>{words.help.title}</h1>
            <p>{words.help.text}</p>
          </div>
        </section>
      ) : isUnknown && !unsaved[queryPath(name)] ? (
        <section className="pane wide">
          <div className="quiet">
            <h1>{words.unknown.title(name)}</h1>
            <p>{words.unknown.text}</p>
          </div>
        </section>
      ) : (
        <OpenQuery
          key={name}
          name={name}
          summary={queries.find((one) => one.name === name)}
          line={Number(parameters.get('line')) || undefined}
          onDeleted={() => {
            setParameters({})
            focusLater(() => names.current?.querySelector('button'))
          }}
        />
      )}
    </main>
  )
}

function summaryOf({ from, take, uses }: QuerySummary): string {
  const routes = [...new Set(uses.map((one) => one.path))]
  const used =
    routes.length === 0 ? words.unused : routes.length < 3 ? routes.join(', ') : words.routes(routes.length)
  return `${from}, ${words.takes[take]} · ${used}`
}

/** Returns the parameters of the routes that use a query. */
const parametersOf = (uses: QuerySummary['uses']): string[] => [
  ...new Set(uses.flatMap((one) => [...one.path.matchAll(/:([a-zA-Z]\w*)/g)].map((found) => found[1] ?? ''))),
]

interface OpenProps {
  name: string
  summary: QuerySummary | undefined
  line: number | undefined
  onDeleted(): void
}

function OpenQuery({ name, summary, line, onDeleted }: OpenProps) {
  const [typed, setTyped] = useState('')
  const { settings, change } = useRunSettings()
  const { view, ...how } = settings
  const request: RunRequest = { name, text: typed, ...how }
  const { rows, plan } = useQueryRun(request)
  const result = rows.data
  const [mode, setMode] = useState<'parts' | 'yaml'>(line === undefined ? 'parts' : 'yaml')
  const stored = useRead('GET /api/document', { query: { path: queryPath(name) } })
  const problemOf = (error: Error | null) => (error === null ? null : errorText(error))
  const uses = summary?.uses ?? []
  return (
    <>
      <section className="pane open-query" aria-label={text.label(name)}>
        <DocumentEditor
          path={queryPath(name)}
          line={line}
          height="100%"
          onText={setTyped}
          complete={completeQuery}
          parts={
            mode === 'parts'
              ? (yaml, changeText) => (
                  <QueryBuilder text={yaml} change={changeText} parameters={parametersOf(uses)} />
                )
              : undefined
          }
          extra={
            <>
              {uses.slice(0, 1).map((one) =>
                one.example === null ? null : (
                  <Link
                    key={one.route}
                    className="use"
                    to={`/walk?path=${encodeURIComponent(one.example)}&edit=${encodeURIComponent(queryPath(name))}`}
                    title={text.walk(one.example)}
                  >
                    <Plate pattern={one.path} />
                  </Link>
                ),
              )}
              {summary && uses.length === 0 ? (
                <DeleteQuery name={name} version={summary.version} onDeleted={onDeleted} />
              ) : null}
              <Segmented
                size="small"
                aria-label={text.view}
                options={[
                  { value: 'parts', label: text.parts },
                  { value: 'yaml', label: text.yaml },
                ]}
                value={mode}
                onChange={setMode}
              />
            </>
          }
        />
        <p className="sentence">
          {result?.problems.length === 0 ? (
            asSentence(result.sentence)
          ) : summary ? (
            <>
              {result ? <span className="muted">{text.asSaved} </span> : null}
              {asSentence(summary.sentence)}
            </>
          ) : null}{' '}
          {(result?.notes ?? []).map((note) => (
            <Chip key={note}>{note}</Chip>
          ))}
        </p>
        <QueryRows
          name={name}
          request={request}
          result={result}
          problem={problemOf(rows.error)}
          uses={uses}
          change={change}
        />
      </section>
      <section className="pane details" aria-label={text.details}>
        <header>
          <div role="tablist" aria-label={text.details} className="tabs">
            {VIEWS.map((key) => (
              <button key={key} role="tab" aria-selected={view === key} onClick={() => change({ view: key })}>
                {text.views[key]}
              </button>
            ))}
          </div>
          <span className="grow" />
          {view === 'code' && result?.code ? <Copy text={result.code} what={text.theCode} /> : null}
        </header>
        {view === 'growth' ? (
          <QueryGrowth name={name} isSaved={stored.data === undefined || stored.data.text === typed} />
        ) : view === 'plan' ? (
          <QueryPlanView
            plan={result && result.statements.length > 0 ? plan.data : undefined}
            problem={problemOf(plan.error)}
            isMeasuring={plan.isFetching}
            again={() => void plan.refetch()}
          />
        ) : view === 'sql' ? (
          <div className="scroll statements">
            {(result?.statements ?? []).map((one) => (
              <div key={one.sql} className="statement">
                <Sql sql={one.sql} values={one.values} />
                <p className="muted">
                  {text.rows(one.rows)}{' '}
                  <Copy text={withValues(one.sql, one.values)} what={text.theStatement} />
                </p>
              </div>
            ))}
            {result?.statements.length === 0 ? (
              <p className="quiet small">{result.why ?? text.notRun}</p>
            ) : null}
          </div>
        ) : (
          <pre className="scroll code" tabIndex={0} aria-label={text.code}>
            {result?.code ?? ''}
          </pre>
        )}
      </section>
    </>
  )
}

/** Deletes a query that no route uses. */
function DeleteQuery({ name, version, onDeleted }: { name: string; version: number; onDeleted(): void }) {
  const { apply } = useChanges()
  const path = queryPath(name)
  const remove = async () => {
    const step = { do: 'delete-document', document: path, version } as const
    if (!(await apply([step], text.deleted(path)))) return
    useUnsavedTexts.getState().forget(path)
    onDeleted()
  }
  return (
    <Button size="small" danger onClick={() => void remove()} title={text.deleteHint}>
      {shared.delete}
    </Button>
  )
}
