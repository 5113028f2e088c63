/** The page that is open: what is written, and its place in the tree. */
import { useQueryClient } from '@tanstack/react-query'
import { App, Button, Select, Switch } from 'antd'
import { useState } from 'react'
import type { PageSummary } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { whyRefused } from '../../../shared/words/why-refused.ts'
import { plural } from '../../../shared/words/words.ts'
import { useDeletionNotice } from '../parts/deleted.tsx'
import { refreshContent } from '../parts/refresh.ts'
import { SlugField } from '../parts/slug-field.tsx'
import type { Place } from '../parts/tree-moves.ts'
import { parentOf, usePage, type PageParts, type PageWork } from './use-page.ts'
import { usePreview } from '../writing/use-preview.ts'
import type { View } from '../parts/views.tsx'
import { WritingPane } from '../writing/writing-pane.tsx'

interface Props {
  /** null: a new one */
  path: string | null
  pages: readonly PageSummary[]
  view: View
  changeView(view: View): void
  moved(path: string): void
  move(path: string, to: Place & { slug?: string }): Promise<void>
  close(): void
}

export function OpenPage({ path, pages, view, changeView, moved, move, close }: Props) {
  const work = usePage(path, moved)
  const { parts, stored, edit } = work
  const { preview: shown, problem } = usePreview(
    JSON.stringify(parts),
    (wanted) => preview(path, wanted),
    path === null || stored !== undefined,
  )
  const isMissing = work.error !== null && !stored
  return (
    <>
      <WritingPane
        what="page"
        work={work}
        isNew={path === null}
        title={parts.title}
        changeTitle={(title) => edit({ ...parts, title })}
        changeBody={(body) => body !== parts.body && edit({ ...parts, body })}
        view={view}
        changeView={changeView}
        shown={shown}
        problem={shown?.path === null ? 'No route shows pages: add one under Routes.' : problem}
        readers={
          path === null
            ? { readers: 'of a page that is not there yet', isPreview: true }
            : work.isChanged
              ? { readers: 'of what is not saved: readers see the last save', isPreview: true }
              : { readers: 'As readers see it', isPreview: false }
        }
        facts={shown ? plural(shown.wordCount, 'word') : ''}
        unsaved={path === null ? 'not saved yet' : 'not saved; readers see what was saved last'}
        seen={stored?.address ?? null}
        walk={stored?.address ? `/walk?path=${encodeURIComponent(stored.address)}` : null}
        close={close}
      />
      {isMissing ? null : <PageFacts work={work} path={path} pages={pages} move={move} close={close} />}
    </>
  )
}

function preview(path: string | null, wanted: string) {
  const { title, body, inNavigation } = JSON.parse(wanted) as PageParts
  return call('POST /api/page/preview', {
    body: { path, title: title.trim() === '' ? 'Without a title' : title, body, inNavigation },
  })
}

/** The same as no parent; a select has no null. */
const TOP = ''

interface FactsProps extends Pick<Props, 'path' | 'pages' | 'move' | 'close'> {
  work: PageWork
}

function PageFacts({ work, path, pages, move, close }: FactsProps) {
  const { parts, stored, isAsking, edit } = work
  const client = useQueryClient()
  const { message } = App.useApp()
  const tell = useDeletionNotice()
  const [isSlugOpen, setSlugOpen] = useState(false)
  const below = path === null ? [] : pages.filter((one) => one.path.startsWith(`${path}/`))
  const choices = [
    { value: TOP, label: 'none: it is at the top' },
    ...pages
      .filter((one) => one.path !== path && !below.includes(one))
      .map((one) => ({ value: one.path, label: `${'— '.repeat(one.depth)}${one.title}` })),
  ]
  const remove = async () => {
    if (!stored) return
    try {
      const { deleted, count, title } = await call('POST /api/page/delete', {
        query: { path: stored.path },
        body: { version: stored.version },
      })
      close()
      await refreshContent(client)
      tell(`“${title}” deleted${count > 1 ? `, with ${plural(count - 1, 'page')} below it` : ''}`, [deleted])
    } catch (error) {
      void message.error(whyRefused(error), 8)
    }
  }
  return (
    <section className="pane post-facts" aria-label="This page">
      <header>
        <h1>This page</h1>
        <span className="grow" />
        {stored ? (
          // What was moved a moment ago is another version: it is deleted as it is, not as it was.
          <Button size="small" danger type="text" disabled={isAsking} onClick={() => void remove()}>
            Delete
          </Button>
        ) : null}
      </header>
      <div className="scroll">
        <div className="fields">
          <div className="field">
            <span>Address</span>
            {stored ? (
              <>
                <span className="plate">{stored.address ?? stored.path}</span>
                {isSlugOpen ? (
                  <SlugField
                    kind="page"
                    own={stored.path}
                    take={(slug) => {
                      setSlugOpen(false)
                      void move(stored.path, { ...placeOf(pages, stored.path), slug })
                    }}
                    leave={() => setSlugOpen(false)}
                  />
                ) : (
                  <span className="muted">
                    <button type="button" className="link" onClick={() => setSlugOpen(true)}>
                      Give it another slug
                    </button>
                  </span>
                )}
                {stored.former.length > 0 ? (
                  <span className="muted">
                    {stored.former.join(', ')} {stored.former.length === 1 ? 'leads' : 'lead'} here.
                  </span>
                ) : null}
              </>
            ) : (
              <span className="muted">Made of the title, below the page it is in.</span>
            )}
          </div>
          <label>
            Below
            <Select
              aria-label="Below"
              value={(stored ? parentOf(stored.path) : parts.parent) ?? TOP}
              options={choices}
              showSearch={{ optionFilterProp: 'label' }}
              onChange={(parent: string) => {
                const wanted = parent === TOP ? null : parent
                if (stored) void move(stored.path, { parent: wanted, before: null })
                else edit({ ...parts, parent: wanted })
              }}
            />
            {below.length > 0 ? (
              <span className="muted">{plural(below.length, 'page')} below it would move along.</span>
            ) : null}
          </label>
          <label className="row">
            <Switch
              size="small"
              checked={parts.inNavigation}
              onChange={(inNavigation) => edit({ ...parts, inNavigation })}
            />
            Shown in the navigation
          </label>
        </div>
      </div>
    </section>
  )
}

/** Where a page is now, so that a new slug leaves it there. */
function placeOf(pages: readonly PageSummary[], path: string): Place {
  const beside = pages.filter((one) => one.parent === parentOf(path))
  const at = beside.findIndex((one) => one.path === path)
  return { parent: parentOf(path), before: beside[at + 1]?.path ?? null }
}
