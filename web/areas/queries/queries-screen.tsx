/** Queries: which rows, in which order, at what cost. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { App, Button, Segmented } from 'antd'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import type { QuerySummary } from '../../../contract/operations.ts'
import { ApiProblem, call } from '../../api/client.ts'
import { DocumentEditor } from '../../shared/editor/document-editor.tsx'
import { Chip, Copy, Plate, Unsaved } from '../../shared/marks/marks.tsx'
import { Sql, withValues } from '../../shared/queries/sql.tsx'
import { refreshDefinition, storedDocument } from '../../shared/changes/apply.ts'
import { NewDocument } from '../../shared/editor/new-document.tsx'
import { useUndoNotice } from '../../shared/changes/undo-notice.tsx'
import { whyRefused } from '../../shared/words/why-refused.ts'
import { asSentence, plural } from '../../shared/words/words.ts'
import { useWritten } from '../../shared/editor/written.ts'
import { completeQuery } from '../../../core/queries/authoring/complete.ts'
import { useAsked, VIEWS } from './asked.ts'
import { OwnIndexesPane } from './own-indexes.tsx'
import { QueryBuilder } from './builder/query-builder.tsx'
import { QueryGrowth } from './query-growth.tsx'
import { QueryPlanView } from '../../shared/queries/query-plan.tsx'
import { QueryRows } from './query-rows.tsx'
import { useTrial, type Trial } from './use-trial.ts'
import './queries.css'

const INDEXES = 'indexes.yaml'
const NONE: readonly QuerySummary[] = []
const pathOf = (name: string) => `queries/${name}.yaml`
const nameOf = (path: string | null) => /^queries\/(.+)\.yaml$/.exec(path ?? '')?.[1]

export function QueriesScreen() {
  const [parameters, setParameters] = useSearchParams()
  const list = useQuery({ queryKey: ['documents', 'queries'], queryFn: () => call('GET /api/queries', {}) })
  const queries = list.data ?? NONE
  const isIndexes = parameters.get('open') === INDEXES
  const name = isIndexes ? undefined : (nameOf(parameters.get('open')) ?? queries[0]?.name)
  const choose = (next: string) => {
    if (next !== name) setParameters({ open: pathOf(next) })
  }
  const isUnknown = name !== undefined && list.data !== undefined && !queries.some((one) => one.name === name)
  const written = useWritten(({ of }) => of)
  return (
    <main className="queries">
      <section className="pane" aria-label="Queries">
        <header>
          <h1>Queries</h1>
          <span className="muted">{list.data ? queries.length : ''}</span>
        </header>
        <ul className="scroll names">
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
                  {one.name} {written[pathOf(one.name)] ? <Unsaved /> : null}
                </b>
                <span className="muted">{inShort(one)}</span>
              </button>
            </li>
          ))}
          {list.error ? <li className="quiet small">{list.error.message}</li> : null}
          {list.data?.length === 0 ? (
            <li className="quiet small">There is no query yet. Make the first one below.</li>
          ) : null}
        </ul>
        <button
          type="button"
          className="indexes"
          aria-current={isIndexes}
          onClick={() => setParameters({ open: INDEXES })}
        >
          Indexes of this blog
        </button>
        <NewDocument hint="name of a new query" starter={STARTER} pathOf={pathOf} made={choose} />
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
            <h1>A query says which rows a template gets</h1>
            <p>Its source, what it keeps, in which order, and how many.</p>
          </div>
        </section>
      ) : isUnknown && !written[pathOf(name)] ? (
        <section className="pane wide">
          <div className="quiet">
            <h1>There is no query “{name}”</h1>
            <p>It was deleted or never made. Choose another on the left, or make it there.</p>
          </div>
        </section>
      ) : (
        <OpenQuery
          key={name}
          name={name}
          summary={queries.find((one) => one.name === name)}
          line={Number(parameters.get('line')) || undefined}
          gone={() => setParameters({})}
        />
      )}
    </main>
  )
}

const TAKES = { one: 'one row', first: 'the first few', all: 'all of them', pages: 'page by page' } as const

function inShort({ from, take, uses }: QuerySummary): string {
  const routes = [...new Set(uses.map((one) => one.path))]
  return `${from}, ${TAKES[take]} · ${routes.length === 0 ? 'not used' : routes.length < 3 ? routes.join(', ') : plural(routes.length, 'route')}`
}

/** Parameters that the routes of a query have: what stands as `:name` in their paths. */
const givenBy = (uses: QuerySummary['uses']): string[] => [
  ...new Set(uses.flatMap((one) => [...one.path.matchAll(/:([a-zA-Z]\w*)/g)].map((found) => found[1] ?? ''))),
]

interface OpenProps {
  name: string
  summary: QuerySummary | undefined
  line: number | undefined
  /** Told when the query is no more. */
  gone(): void
}

function OpenQuery({ name, summary, line, gone }: OpenProps) {
  const client = useQueryClient()
  const [text, setText] = useState('')
  const { asked, change } = useAsked()
  const { view, ...how } = asked
  const trial: Trial = { name, text, ...how }
  const { rows, plan } = useTrial(trial)
  const result = rows.data
  const [writing, setWriting] = useState<'parts' | 'yaml'>(line === undefined ? 'parts' : 'yaml')
  const stored = useQuery({
    queryKey: ['document', pathOf(name)],
    queryFn: () => call('GET /api/document', { query: { path: pathOf(name) } }),
  })
  const problemOf = (error: Error | null) =>
    error === null
      ? null
      : error instanceof ApiProblem
        ? `${error.details.title}. ${error.details.detail ?? ''}`
        : error.message
  const uses = summary?.uses ?? []
  return (
    <>
      <section className="pane open-query" aria-label={`Query ${name}`}>
        <DocumentEditor
          path={pathOf(name)}
          line={line}
          height="100%"
          onText={setText}
          complete={completeQuery}
          parts={
            writing === 'parts'
              ? (written, change) => <QueryBuilder text={written} change={change} given={givenBy(uses)} />
              : undefined
          }
          onSaved={() => void client.invalidateQueries({ queryKey: ['documents'] })}
          extra={
            <>
              {uses.slice(0, 1).map((one) =>
                one.example === null ? null : (
                  <Link
                    key={one.route}
                    className="use"
                    to={`/walk?path=${encodeURIComponent(one.example)}&edit=${encodeURIComponent(pathOf(name))}`}
                    title={`Walk ${one.example} with this query open`}
                  >
                    <Plate pattern={one.path} />
                  </Link>
                ),
              )}
              {summary && uses.length === 0 ? <RemoveQuery name={name} gone={gone} /> : null}
              <Segmented
                size="small"
                aria-label="Written as"
                options={[
                  { value: 'parts', label: 'Parts' },
                  { value: 'yaml', label: 'YAML' },
                ]}
                value={writing}
                onChange={setWriting}
              />
            </>
          }
        />
        <p className="sentence">
          {result?.problems.length === 0 ? (
            asSentence(result.sentence)
          ) : summary ? (
            <>
              {result ? <span className="muted">As saved: </span> : null}
              {asSentence(summary.sentence)}
            </>
          ) : null}{' '}
          {(result?.notes ?? []).map((note) => (
            <Chip key={note}>{note}</Chip>
          ))}
        </p>
        <QueryRows
          name={name}
          trial={trial}
          result={result}
          problem={problemOf(rows.error)}
          uses={uses}
          change={change}
        />
      </section>
      <section className="pane behind" aria-label="Behind it">
        <header>
          <div role="tablist" aria-label="What is behind it" className="tabs">
            {VIEWS.map(([key, label]) => (
              <button key={key} role="tab" aria-selected={view === key} onClick={() => change({ view: key })}>
                {label}
              </button>
            ))}
          </div>
          <span className="grow" />
          {view === 'code' && result?.code ? <Copy text={result.code} what="the code" /> : null}
        </header>
        {view === 'growth' ? (
          <QueryGrowth name={name} isSaved={stored.data === undefined || stored.data.text === text} />
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
                  {plural(one.rows, 'row')}{' '}
                  <Copy text={withValues(one.sql, one.values)} what="the statement with its values" />
                </p>
              </div>
            ))}
            {result?.statements.length === 0 ? (
              <p className="quiet small">{asSentence(result.why ?? 'it has not run')}</p>
            ) : null}
          </div>
        ) : (
          <pre className="scroll code" tabIndex={0} aria-label="The same with TypeORM">
            {result?.code ?? ''}
          </pre>
        )}
      </section>
    </>
  )
}

/** A query that no route uses can go; it can be put back as it was. */
function RemoveQuery({ name, gone }: { name: string; gone(): void }) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const tell = useUndoNotice()
  const path = pathOf(name)
  const remove = async () => {
    try {
      const { text, version } = await storedDocument(path)
      await call('POST /api/document/remove', { body: { path, version } })
      useWritten.getState().forget(path)
      gone()
      await refreshDefinition(client)
      tell(`${path} is gone`, async () => {
        await call('PUT /api/document', { body: { path, text, version: 0 } })
        await refreshDefinition(client)
      })
    } catch (error) {
      void message.error(whyRefused(error), 8)
    }
  }
  return (
    <Button size="small" danger onClick={() => void remove()} title="No route uses it">
      Delete
    </Button>
  )
}

const STARTER =
  'from: posts\nwith: [category, author]\nwhere: [published]\norder: [-publishedAt]\ntake: first 5\n'
