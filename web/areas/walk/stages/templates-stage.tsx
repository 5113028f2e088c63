/** The templates that rendered the page, each with its time. */
import type { WalkRecord } from '../../../../contract/walk-record.ts'
import { Link } from 'react-router'
import { documentLink } from '../../../shared/editor/documents.ts'
import { Time } from '../../../shared/marks/marks.tsx'
import { isData, isDataOfRoute } from './is-data.ts'
import type { StageTools } from './stage-tools.ts'
import { words } from '../words.ts'

const text = words.templates

export function TemplatesStage({ record, tools }: { record: WalkRecord; tools: StageTools }) {
  const { tree, rounds, page } = record.templates
  if (page === null)
    return (
      <p className="reason">
        {isDataOfRoute(record) ? text.noneForData : isData(record) ? text.noneForMachines : text.none}
      </p>
    )
  return (
    <>
      {rounds > 1 ? <p className="reason">{text.rounds(rounds)}</p> : null}
      <ul className="template-tree">
        {tree.map((one) => (
          <li key={`${one.name} ${one.calledFrom?.line ?? 0}`} style={{ paddingLeft: one.depth * 18 }}>
            <button
              className="name mono"
              onClick={() => tools.open(one.document)}
              title={text.open(one.document)}
            >
              {one.name}
            </button>
            {one.count > 1 ? <span className="muted">×{one.count}</span> : null}
            {one.calledFrom ? (
              <button
                className="link muted"
                title={text.openCaller(one.calledFrom.document)}
                onClick={() => one.calledFrom && tools.open(one.calledFrom.document, one.calledFrom.line)}
              >
                {text.line(one.calledFrom.line)}
              </button>
            ) : null}
            <Link
              className="link muted"
              to={`${documentLink(one.document)}&path=${encodeURIComponent(record.target)}`}
              title={text.valuesHint}
            >
              {text.values}
            </Link>
            <span className="muted self" title={text.selfHint}>
              <Time value={Math.max(0, one.self)} /> {text.self}
            </span>
            <Time value={one.milliseconds} />
          </li>
        ))}
      </ul>
      {tree.length === 0 ? (
        <button className="link" onClick={() => tools.open(`templates/${page}.liquid`)}>
          {text.open(`templates/${page}.liquid`)}
        </button>
      ) : null}
      {tools.editorAt('templates')}
    </>
  )
}

TemplatesStage.Title = function TemplatesTitle({ record }: { record: WalkRecord }) {
  const { page, tree } = record.templates
  const layout = tree.find((one) => one.name.startsWith('layouts/'))?.name
  return (
    <>
      {text.title}{' '}
      {page === null ? null : (
        <span className="plain-weight">
          <code>{page}</code>
          {layout === undefined ? '' : text.in}
          {layout === undefined ? null : <code>{layout}</code>}
        </span>
      )}
    </>
  )
}
