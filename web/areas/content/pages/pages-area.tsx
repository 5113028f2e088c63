/** The pages: the tree, and the open page beside it. */
import { Button } from 'antd'
import type { PageSummary } from '../../../../contract/pages.ts'
import { useRead } from '../../../api/queries.ts'
import { Chip } from '../../../shared/marks/marks.tsx'
import { useAddressState } from '../parts/address-state.ts'
import { ContentTabs } from '../parts/content-tabs.tsx'
import { FilesMenu } from '../parts/files-menu.tsx'
import { isNew, newName } from '../parts/new-name.ts'
import { TreeList } from '../parts/tree-list.tsx'
import { useListKeys } from '../parts/use-list-keys.ts'
import { useOpenKey } from '../parts/use-open-key.ts'
import { words } from '../words.ts'
import { OpenPage } from './page-work.tsx'
import { useMovePage } from './use-move-page.ts'

const text = words.pages
const NONE: readonly PageSummary[] = []

export function PagesArea() {
  const [parameters, change] = useAddressState()
  const open = parameters.get('page')
  const list = useRead('GET /api/pages', {})
  const pages = list.data ?? NONE
  const { key, renamed } = useOpenKey(open)
  const move = useMovePage((from, to) => {
    if (open !== from || from === to) return
    renamed(to)
    change({ page: to }, true)
  })
  useListKeys({
    names: pages.map((one) => one.path),
    open,
    choose: (path) => change({ page: path }),
    create: () => change({ page: newName() }),
  })
  const view = parameters.get('view')
  return (
    <>
      <section className="pane content-list" aria-label={text.title}>
        <ContentTabs />
        <div className="tools-line">
          <span className="muted">{text.hint}</span>
          <span className="grow" />
          <FilesMenu kind="page" many="pages" />
          <Button
            size="small"
            type="primary"
            aria-keyshortcuts="n"
            onClick={() => change({ page: newName() })}
          >
            {words.write}
          </Button>
        </div>
        {list.error ? <p className="quiet small">{list.error.message}</p> : null}
        {list.data?.length === 0 ? (
          <p className="quiet small">{text.empty}</p>
        ) : (
          <TreeList
            kind="page"
            rows={pages.map((one) => ({
              id: one.path,
              parent: one.parent,
              depth: one.depth,
              title: one.title,
              facts: (
                <>
                  <code>{one.address ?? text.noRoute(one.path)}</code> · {text.words(one.wordCount)}
                </>
              ),
              chip: one.inNavigation ? <Chip tone="blue">{text.inNavigation}</Chip> : undefined,
            }))}
            open={open}
            choose={(path) => change({ page: path })}
            move={move}
          />
        )}
        <footer>
          <span>{text.count(pages.length)}</span>
          <span className="grow" />
          <span>{words.tree.keys}</span>
        </footer>
      </section>
      {open === null ? (
        <section className="pane writing-pane wide">
          <div className="quiet">
            <h1>{text.help.title}</h1>
            <p>{text.help.text}</p>
          </div>
        </section>
      ) : (
        <OpenPage
          key={key}
          path={isNew(open) ? null : open}
          pages={pages}
          view={view === 'text' || view === 'page' ? view : 'both'}
          changeView={(next) => change({ view: next === 'both' ? null : next })}
          onRenamed={(path) => {
            renamed(path)
            change({ page: path }, true)
          }}
          move={move}
          close={() => change({ page: null })}
        />
      )}
    </>
  )
}
