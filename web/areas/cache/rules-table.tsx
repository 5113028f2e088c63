/** The rules for copies: what each keeps one copy for, for how long, what refreshes it, and how often it has answered. */
import { Table } from 'antd'
import { useState } from 'react'
import type { RuleItem } from '../../../contract/cache.ts'
import { Chip } from '../../shared/marks/marks.tsx'
import { formatMilliseconds, formatSpan } from '../../shared/words/format.ts'
import { RuleEditor } from './rule-editor.tsx'
import { words } from './words.ts'

const text = words.rules

export function RulesTable({ rules, isPending }: { rules: readonly RuleItem[]; isPending: boolean }) {
  const [edited, edit] = useState<RuleItem | null>(null)
  const pages = rules.filter((one) => one.kind === 'page')
  const hits = pages.reduce((sum, one) => sum + one.hits, 0)
  const all = hits + pages.reduce((sum, one) => sum + one.misses + one.bypasses, 0)
  const { columns } = text
  return (
    <section className="pane" aria-label={text.title}>
      <header>
        <h1>{text.title}</h1>
        {isPending ? null : <span className="muted">{text.lastHour(hits, all)}</span>}
      </header>
      <div className="scroll">
        <Table<RuleItem>
          size="small"
          rowKey={(one) => `${one.kind} ${one.name}`}
          dataSource={[...rules]}
          loading={isPending}
          locale={{ emptyText: ' ' }}
          pagination={false}
          rowClassName={(one) => (one.stalest > 0 ? 'aged' : '')}
          columns={[
            {
              title: columns.name,
              key: 'name',
              render: (_, one) => (
                <button
                  type="button"
                  className="rule-name"
                  title={text.edit(one.name)}
                  onClick={() => edit(one)}
                >
                  {one.kind === 'page' ? <span className="muted plain-weight">page · </span> : null}
                  <b>{one.name}</b>
                </button>
              ),
            },
            {
              title: columns.oneCopyFor,
              key: 'for',
              render: (_, one) => <code>{one.oneCopyFor.join(' ') || text.onlyOne}</code>,
            },
            {
              title: columns.lifetime,
              key: 'lifetime',
              className: 'on-one-line',
              render: (_, one) => (
                <span
                  title={
                    one.staleWhileRevalidate > 0
                      ? text.stale(formatSpan(one.staleWhileRevalidate))
                      : undefined
                  }
                >
                  {one.refresh === 'on-change' ? text.untilChange : formatSpan(one.lifetime)}
                </span>
              ),
            },
            {
              title: columns.refreshed,
              key: 'refreshed',
              className: 'on-one-line',
              render: (_, one) => <Refreshed rule={one} />,
            },
            { title: columns.share, key: 'share', width: 130, render: (_, one) => <Share rule={one} /> },
            { title: columns.copies, dataIndex: 'copies', align: 'right' },
            {
              title: columns.saves,
              key: 'saves',
              align: 'right',
              render: (_, { savedMilliseconds: saved }) => (saved === null ? '' : formatMilliseconds(saved)),
            },
          ]}
        />
      </div>
      {edited ? <RuleEditor rule={edited} close={() => edit(null)} /> : null}
    </section>
  )
}

function Refreshed({ rule: { notKept, refresh, stalest } }: { rule: RuleItem }) {
  if (notKept !== null) return <span className="muted">{text.notKept(notKept)}</span>
  if (refresh === 'by-age')
    return (
      <Chip tone="look" title={text.byAgeHelp(formatSpan(stalest))}>
        {text.byAge}
      </Chip>
    )
  return <>{refresh === 'both' ? text.both : text.onChange}</>
}

function Share({ rule: { hits, misses, bypasses } }: { rule: RuleItem }) {
  const all = hits + misses + bypasses
  if (all === 0) return <span className="muted small">{text.noRequests}</span>
  const percent = Math.round((100 * hits) / all)
  return (
    <span className="share" title={`${hits.toLocaleString('en-GB')} / ${all.toLocaleString('en-GB')}`}>
      <span className="bar" aria-hidden="true">
        <i style={{ width: `${percent}%` }} />
      </span>
      {text.share(percent)}
    </span>
  )
}
