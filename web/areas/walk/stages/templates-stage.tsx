/** Which templates made the page, each with its time. */
import type { WalkRecord } from '../../../../contract/operations.ts'
import { Time } from '../../../shared/marks/marks.tsx'
import { isData } from './is-data.ts'
import type { StageTools } from './stage-tools.ts'

export function TemplatesStage({ record, tools }: { record: WalkRecord; tools: StageTools }) {
  const { tree, rounds, page } = record.templates
  if (page === null)
    return (
      <p className="reason">
        {isData(record)
          ? 'None: programs get all the data of the route, each row with every field that readers may see.'
          : 'No template was rendered.'}
      </p>
    )
  return (
    <>
      {rounds > 1 ? (
        <p className="reason">
          Rendered {rounds} times: a kept part had to be made, and its data was fetched only then.
        </p>
      ) : null}
      <ul className="template-tree">
        {tree.map((one) => (
          <li key={`${one.name} ${one.calledFrom?.line ?? 0}`} style={{ paddingLeft: one.depth * 18 }}>
            <button
              className="name mono"
              onClick={() => tools.open(one.document)}
              title={`Open ${one.document}`}
            >
              {one.name}
            </button>
            {one.count > 1 ? <span className="muted">×{one.count}</span> : null}
            {one.calledFrom ? (
              <button
                className="link muted"
                title={`Open where it is called: ${one.calledFrom.document}`}
                onClick={() => one.calledFrom && tools.open(one.calledFrom.document, one.calledFrom.line)}
              >
                line {one.calledFrom.line}
              </button>
            ) : null}
            <span className="muted self" title="by itself, without what it renders in turn">
              <Time value={Math.max(0, one.self)} /> itself
            </span>
            <Time value={one.milliseconds} />
          </li>
        ))}
      </ul>
      {tree.length === 0 ? (
        <button className="link" onClick={() => tools.open(`templates/${page}.liquid`)}>
          open {page}
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
      Templates{' '}
      {page === null ? null : (
        <span className="plain-weight">
          <code>{page}</code>
          {layout === undefined ? '' : ' in '}
          {layout === undefined ? null : <code>{layout}</code>}
        </span>
      )}
    </>
  )
}
