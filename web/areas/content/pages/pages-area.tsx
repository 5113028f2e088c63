/** Pages: their tree, and the open one. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { App, Button } from 'antd'
import { useState } from 'react'
import type { PageSummary } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { whyRefused } from '../../../shared/words/why-refused.ts'
import { Chip } from '../../../shared/marks/marks.tsx'
import { useUndoNotice } from '../../../shared/changes/undo-notice.tsx'
import { plural } from '../../../shared/words/words.ts'
import { useAddressState } from '../parts/address-state.ts'
import { ContentTabs } from '../parts/content-tabs.tsx'
import { FilesMenu } from '../parts/files-menu.tsx'
import { NEW } from '../parts/new-name.ts'
import { OpenPage } from './page-work.tsx'
import { refreshContent } from '../parts/refresh.ts'
import { MOVED, TreeList } from '../parts/tree-list.tsx'
import type { Place } from '../parts/tree-moves.ts'
import { useListKeys } from '../parts/use-list-keys.ts'

const NONE: readonly PageSummary[] = []

export function PagesArea() {
  const [parameters, change] = useAddressState()
  const open = parameters.get('page')
  const list = useQuery({ queryKey: ['pages'], queryFn: () => call('GET /api/pages', {}) })
  const pages = list.data ?? NONE
  const [follow, setFollow] = useState<{ from: string; to: string } | null>(null)
  const key = follow && follow.to === open ? follow.from : open
  const move = useMovePage((from, to) => open === from && change({ page: to }))
  useListKeys({
    names: pages.map((one) => one.path),
    open,
    choose: (path) => change({ page: path }),
    begin: () => change({ page: NEW }),
  })
  const view = parameters.get('view')
  return (
    <>
      <section className="pane content-list" aria-label="Pages">
        <ContentTabs />
        <div className="tools-line">
          <span className="muted">Drag to order; to the right goes below</span>
          <span className="grow" />
          <FilesMenu kind="page" many="pages" />
          <Button size="small" type="primary" aria-keyshortcuts="n" onClick={() => change({ page: NEW })}>
            Write
          </Button>
        </div>
        {list.error ? <p className="quiet small">{list.error.message}</p> : null}
        {list.data?.length === 0 ? (
          <p className="quiet small">There is no page yet. “Write” begins the first one.</p>
        ) : (
          <TreeList
            word="page"
            rows={pages.map((one) => ({
              id: one.path,
              parent: one.parent,
              depth: one.depth,
              title: one.title,
              facts: (
                <>
                  <code>{one.address ?? `${one.path}: no route shows it`}</code> ·{' '}
                  {plural(one.wordCount, 'word')}
                </>
              ),
              chip: one.inNavigation ? <Chip tone="blue">in navigation</Chip> : undefined,
            }))}
            open={open}
            choose={(path) => change({ page: path })}
            move={move}
          />
        )}
        <footer>
          <span>{plural(pages.length, 'page')}</span>
          <span className="grow" />
          <span>J K to go · Alt and arrows to move</span>
        </footer>
      </section>
      {open === null ? (
        <section className="pane writing-pane wide">
          <div className="quiet">
            <h1>Open a page, or write one</h1>
            <p>
              A page has its place in the tree, and its address from there. What is below it moves with it.
            </p>
          </div>
        </section>
      ) : (
        <OpenPage
          key={key}
          path={open === NEW ? null : open}
          pages={pages}
          view={view === 'text' || view === 'page' ? view : 'both'}
          changeView={(next) => change({ view: next === 'both' ? null : next })}
          moved={(path) => {
            setFollow({ from: key ?? NEW, to: path })
            change({ page: path })
          }}
          move={move}
          close={() => change({ page: null })}
        />
      )}
    </>
  )
}

/** Moves a page, and offers to move it back. */
function useMovePage(moved: (from: string, to: string) => void) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const tell = useUndoNotice()
  return async (path: string, to: Place & { slug?: string }): Promise<void> => {
    try {
      const tree = await call('GET /api/pages', {})
      const own = tree.find((one) => one.path === path)
      if (!own) throw new Error(`“${path}” is not there any more`)
      const beside = tree.filter((one) => one.parent === own.parent)
      const next = beside[beside.indexOf(own) + 1]?.path
      const saved = await call('POST /api/page/place', {
        query: { path },
        body: { version: own.version, ...to },
      })
      moved(path, saved.path)
      const back = async () => {
        // What stood after it may have another path now; then it goes to the end of where it was.
        const now = await call('GET /api/pages', {})
        const again = await call('POST /api/page/place', {
          query: { path: saved.path },
          body: {
            version: saved.version,
            parent: own.parent,
            before: now.find((one) => one.path === next)?.path ?? null,
            slug: own.slug,
          },
        })
        moved(saved.path, again.path)
        await refreshContent(client)
      }
      tell(
        saved.former.length === 0
          ? `“${own.title}” has another place`
          : `${saved.path} it is; ${plural(saved.former.length, 'old address leads', 'old addresses lead')} on`,
        back,
        MOVED,
      )
    } catch (error) {
      void message.error(whyRefused(error), 8)
    }
    await refreshContent(client)
  }
}
