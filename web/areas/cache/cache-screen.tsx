/** The Cache area: rules and copies on the left, a change to rehearse and the audit on the right. */
import { Button } from 'antd'
import { lazy, Suspense } from 'react'
import { useSearchParams } from 'react-router'
import { useRead, useWrite } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { Chip } from '../../shared/marks/marks.tsx'
import { formatBytes } from '../../shared/words/format.ts'
import { Audit } from './audit.tsx'
import { CopiesTable } from './copies-table.tsx'
import { Edge } from './edge.tsx'
import { gapsIn, Matrix } from './matrix.tsx'
import { Rehearse } from './rehearse.tsx'
import { RulesTable } from './rules-table.tsx'
import { words } from './words.ts'
import './cache.css'

/** With its charts, it is loaded when it is shown. */
const WhatIf = lazy(async () => ({ default: (await import('./what-if/what-if.tsx')).WhatIf }))

/** How often copies and rules are read, in milliseconds. What refreshes what takes longer to compute. */
const COPIES_READ = 2_000
const RULES_READ = 15_000
const PARTS = ['matrix', 'copies', 'edge', 'whatIf'] as const

export function CacheScreen() {
  const write = useWrite()
  const notices = useNotices()
  const [parameters, setParameters] = useSearchParams()
  const part = PARTS.find((one) => one === parameters.get('part')) ?? 'matrix'
  const rules = useRead('GET /api/cache/rules', {}, { refetchInterval: RULES_READ })
  const stored = useRead('GET /api/copies', {}, { refetchInterval: COPIES_READ })
  const copies = stored.data?.copies ?? []
  const pages = copies.filter((one) => one.kind === 'page').length
  const gaps = gapsIn(rules.data?.rules ?? [])
  const clear = () =>
    write('DELETE /api/copies', {}).then(
      ({ dropped }) => notices.done(words.copies.cleared(dropped)),
      notices.failed,
    )
  return (
    <main className="cache">
      <div className="column">
        <RulesTable rules={rules.data?.rules ?? []} isPending={rules.isPending} />
        <section className="pane" aria-label={words[part].title}>
          <header className="tabs">
            {PARTS.map((one) => (
              <button
                key={one}
                type="button"
                aria-current={one === part ? 'true' : undefined}
                onClick={() => setParameters({ part: one })}
              >
                {words[one].title}
              </button>
            ))}
            <span className="grow" />
            {part === 'matrix' && gaps > 0 ? <Chip tone="look">{words.matrix.gaps(gaps)}</Chip> : null}
            {part === 'copies' ? (
              <>
                <span className="muted">
                  {words.copies.count(
                    pages,
                    copies.length - pages,
                    formatBytes(stored.data?.bytes ?? 0),
                    formatBytes(rules.data?.limitBytes ?? 0),
                    stored.data?.processes ?? 1,
                  )}
                  {stored.data?.shared ? words.copies.shared(stored.data.shared) : ''}
                </span>
                <Button size="small" disabled={copies.length === 0} onClick={() => void clear()}>
                  {words.copies.clear}
                </Button>
              </>
            ) : null}
          </header>
          {part === 'matrix' ? (
            <Matrix rules={rules.data?.rules} />
          ) : part === 'edge' ? (
            <Edge />
          ) : part === 'whatIf' ? (
            rules.data ? (
              <Suspense>
                <WhatIf rules={rules.data.rules} />
              </Suspense>
            ) : null
          ) : (
            <CopiesTable copies={copies} isPending={stored.isPending} />
          )}
        </section>
      </div>
      <div className="column">
        <Rehearse />
        <Audit />
      </div>
    </main>
  )
}
