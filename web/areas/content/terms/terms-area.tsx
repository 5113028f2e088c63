/** The categories, tags or authors: the list with their numbers of posts, and the open one. */
import { Button, Input } from 'antd'
import { useRef, useState } from 'react'
import type { Term } from '../../../../contract/terms.ts'
import { useRead, useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { focusLater } from '../../../shared/focus/focus.ts'
import { Chip } from '../../../shared/marks/marks.tsx'
import { useAddressState } from '../parts/address-state.ts'
import { ContentTabs } from '../parts/content-tabs.tsx'
import { FilesMenu } from '../parts/files-menu.tsx'
import { isNew, newName } from '../parts/new-name.ts'
import { NewTerm, OpenTerm, usageOf } from './term-work.tsx'
import { TreeList } from '../parts/tree-list.tsx'
import type { Place } from '../parts/tree-moves.ts'
import { TermPage } from './term-page.tsx'
import type { TermKind } from '../../../../core/shapes/content-kinds.ts'
import { useListKeys } from '../parts/use-list-keys.ts'
import { words } from '../words.ts'

const text = words.terms

const NONE: readonly Term[] = []

export function TermsArea({ kind }: { kind: TermKind }) {
  const [parameters, change] = useAddressState()
  const open = parameters.get('open')
  const list = useRead('GET /api/terms', { query: { kind } })
  const terms = list.data ?? NONE
  const { many, help } = text.of[kind]
  const [search, setSearch] = useState('')
  const shown = terms.filter((one) => one.name.toLowerCase().includes(search.trim().toLowerCase()))
  const move = useMoveCategory()
  const pane = useRef<HTMLElement>(null)
  const close = () => {
    change({ open: null })
    focusLater(() => pane.current?.querySelector<HTMLElement>('input[type=search]'))
  }
  const choose = (slug: string) => change({ open: slug })
  const opened = terms.find((one) => one.slug === open)
  useListKeys({
    names: shown.map((one) => one.slug),
    open,
    choose,
    create: () => change({ open: newName() }),
    address: opened?.address ?? null,
  })
  return (
    <>
      <section ref={pane} className="pane content-list" aria-label={words.kinds[many]}>
        <ContentTabs />
        <div className="tools-line">
          <Input
            type="search"
            size="small"
            aria-label={text.find(many)}
            placeholder={text.find(many)}
            allowClear
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <FilesMenu kind={kind} many={many} />
          <Button
            size="small"
            type="primary"
            aria-keyshortcuts="n"
            onClick={() => change({ open: newName() })}
          >
            {words.new}
          </Button>
        </div>
        {list.error ? <p className="quiet small">{list.error.message}</p> : null}
        {list.data && shown.length === 0 ? (
          <p className="quiet small">{terms.length === 0 ? text.empty(many, help) : text.noMatch(many)}</p>
        ) : (
          <TreeList
            kind={kind}
            rows={shown.map((one) => ({
              id: one.slug,
              // Search results are not a tree.
              parent: search === '' ? one.parent : null,
              depth: search === '' ? one.depth : 0,
              title: one.name,
              facts: usageOf(one),
              chip: one.posts.published === 0 ? <Chip tone="look">{text.noPosts}</Chip> : undefined,
            }))}
            open={open}
            choose={choose}
            move={kind === 'category' && search === '' ? (slug, to) => move(terms, slug, to) : undefined}
          />
        )}
        <footer>
          <span>{text.count(terms.length, kind, many)}</span>
          <span className="grow" />
          <span>{kind === 'category' ? words.tree.keys : words.tree.listKeys}</span>
        </footer>
      </section>
      <section className="pane open-term wide" aria-label={text.label(kind)}>
        {isNew(open) ? (
          <NewTerm key="new" kind={kind} terms={terms} onCreated={choose} close={close} />
        ) : opened ? (
          <>
            <OpenTerm
              key={`${kind} ${opened.slug}`}
              kind={kind}
              term={opened}
              terms={terms}
              onChanged={(slug) => (slug === null ? close() : change({ open: slug }))}
            />
            <TermPage kind={kind} term={opened} />
          </>
        ) : (
          <div className="quiet">
            <h1>{open === null ? text.open(kind) : text.unknown(kind, open)}</h1>
            <p>{help}</p>
          </div>
        )}
      </section>
    </>
  )
}

/** Returns a function that moves a category in the tree, and offers to move it back. */
function useMoveCategory() {
  const write = useWrite()
  const notices = useNotices()
  return async (terms: readonly Term[], slug: string, to: Place): Promise<string | undefined> => {
    const own = terms.find((one) => one.slug === slug)
    if (!own) return undefined
    const siblings = terms.filter((one) => one.parent === own.parent)
    const before: Place = { parent: own.parent, before: siblings[siblings.indexOf(own) + 1]?.slug ?? null }
    const move = (version: number, place: Place) =>
      write('POST /api/category/move', { query: { slug }, body: { version, ...place } })
    try {
      const { version } = await move(own.version, to)
      const undo = async () => {
        await move(version, before)
      }
      notices.done(text.moved(own.name), undo)
      return slug
    } catch (error) {
      notices.failed(error)
      return undefined
    }
  }
}
