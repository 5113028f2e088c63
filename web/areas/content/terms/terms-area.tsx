/** Categories, tags and authors: the list with how many posts have each, and the open one. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { App, Button, Input } from 'antd'
import { useState } from 'react'
import type { Term } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { whyRefused } from '../../../shared/words/why-refused.ts'
import { Chip } from '../../../shared/marks/marks.tsx'
import { useUndoNotice } from '../../../shared/changes/undo-notice.tsx'
import { plural } from '../../../shared/words/words.ts'
import { useAddressState } from '../parts/address-state.ts'
import { ContentTabs } from '../parts/content-tabs.tsx'
import { FilesMenu } from '../parts/files-menu.tsx'
import { NEW } from '../parts/new-name.ts'
import { refreshContent } from '../parts/refresh.ts'
import { NewTerm, OpenTerm } from './term-work.tsx'
import { MOVED, TreeList } from '../parts/tree-list.tsx'
import type { Place } from '../parts/tree-moves.ts'
import { TermPage } from './term-page.tsx'
import { postsInWords, TERM_WORDS } from './term-words.ts'
import type { TermKind } from '../../../../core/shapes/content-kinds.ts'
import { useListKeys } from '../parts/use-list-keys.ts'

const NONE: readonly Term[] = []

export function TermsArea({ kind }: { kind: TermKind }) {
  const [parameters, change] = useAddressState()
  const open = parameters.get('open')
  const list = useQuery({
    queryKey: ['terms', kind],
    queryFn: () => call('GET /api/terms', { query: { kind } }),
  })
  const terms = list.data ?? NONE
  const { many, what } = TERM_WORDS[kind]
  const [search, setSearch] = useState('')
  const shown = terms.filter((one) => one.name.toLowerCase().includes(search.trim().toLowerCase()))
  const place = usePlaceCategory()
  const choose = (slug: string) => change({ open: slug })
  const opened = terms.find((one) => one.slug === open)
  useListKeys({
    names: shown.map((one) => one.slug),
    open,
    choose,
    begin: () => change({ open: NEW }),
    address: opened?.address ?? null,
  })
  return (
    <>
      <section className="pane content-list" aria-label={many}>
        <ContentTabs />
        <div className="tools-line">
          <Input
            type="search"
            size="small"
            aria-label={`Find ${many}`}
            placeholder={`Find ${many}`}
            allowClear
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <FilesMenu kind={kind} many={many} />
          <Button size="small" type="primary" aria-keyshortcuts="n" onClick={() => change({ open: NEW })}>
            New
          </Button>
        </div>
        {list.error ? <p className="quiet small">{list.error.message}</p> : null}
        {list.data && shown.length === 0 ? (
          <p className="quiet small">
            {terms.length === 0 ? `There are no ${many} yet. ${what}` : `No ${kind} is called so.`}
          </p>
        ) : (
          <TreeList
            word={kind}
            rows={shown.map((one) => ({
              id: one.slug,
              // What is found by its name stands in no tree.
              parent: search === '' ? one.parent : null,
              depth: search === '' ? one.depth : 0,
              title: one.name,
              facts: postsInWords(one),
              chip: one.posts.published === 0 ? <Chip tone="look">nothing to read</Chip> : undefined,
            }))}
            open={open}
            choose={choose}
            move={kind === 'category' && search === '' ? (slug, to) => place(terms, slug, to) : undefined}
          />
        )}
        <footer>
          <span>{plural(terms.length, kind, many)}</span>
          <span className="grow" />
          <span>
            {kind === 'category' ? 'J K to go · Alt and arrows to move' : 'J K to go · N for a new one'}
          </span>
        </footer>
      </section>
      <section className="pane open-term wide" aria-label={`The ${kind}`}>
        {open === NEW ? (
          <NewTerm key="new" kind={kind} terms={terms} made={choose} leave={() => change({ open: null })} />
        ) : opened ? (
          <>
            <OpenTerm
              key={`${kind} ${opened.slug}`}
              kind={kind}
              term={opened}
              terms={terms}
              moved={(slug) => change({ open: slug })}
            />
            <TermPage kind={kind} term={opened} />
          </>
        ) : (
          <div className="quiet">
            <h1>
              {open === null
                ? `Open ${kind === 'author' ? 'an author' : `a ${kind}`}, or make one`
                : `There is no ${kind} “${open}”`}
            </h1>
            <p>{what}</p>
          </div>
        )}
      </section>
    </>
  )
}

/** Moves a category in the tree, and offers to move it back. */
function usePlaceCategory() {
  const client = useQueryClient()
  const { message } = App.useApp()
  const tell = useUndoNotice()
  return async (terms: readonly Term[], slug: string, to: Place): Promise<void> => {
    const own = terms.find((one) => one.slug === slug)
    if (!own) return
    const beside = terms.filter((one) => one.parent === own.parent)
    const was: Place = { parent: own.parent, before: beside[beside.indexOf(own) + 1]?.slug ?? null }
    const place = async (version: number, at: Place) => {
      const saved = await call('POST /api/category/place', { query: { slug }, body: { version, ...at } })
      await refreshContent(client)
      return saved.version
    }
    try {
      const version = await place(own.version, to)
      tell(`“${own.name}” has another place`, async () => void (await place(version, was)), MOVED)
    } catch (error) {
      void message.error(whyRefused(error), 8)
      await refreshContent(client)
    }
  }
}
