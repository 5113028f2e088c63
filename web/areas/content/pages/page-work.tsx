/** The open page: its text, and its place in the tree. */
import { Button, Select, Switch } from 'antd'
import { useRef, useState } from 'react'
import type { PageSummary } from '../../../../contract/pages.ts'
import { call } from '../../../api/client.ts'
import { useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { focusLater } from '../../../shared/focus/focus.ts'
import { words as shared } from '../../../shared/words/words.ts'
import { useDeletionNotice } from '../parts/deleted.tsx'
import { SlugField } from '../parts/slug-field.tsx'
import type { Place } from '../parts/tree-moves.ts'
import { parentOf, usePage, type PageParts, type PageWork } from './use-page.ts'
import { usePreview } from '../writing/use-preview.ts'
import type { View } from '../parts/views.tsx'
import { WritingPane } from '../writing/writing-pane.tsx'
import { words } from '../words.ts'
import type { MovePage } from './use-move-page.ts'

const text = words.pages

interface Props {
  /** null for a new page. */
  path: string | null
  pages: readonly PageSummary[]
  view: View
  changeView(view: View): void
  onRenamed(path: string): void
  move: MovePage
  close(): void
}

export function OpenPage({ path, pages, view, changeView, onRenamed, move, close }: Props) {
  const work = usePage(path, onRenamed)
  const { parts, stored, edit } = work
  const { preview, problem } = usePreview(
    JSON.stringify(parts),
    (wanted) => requestPreview(path, wanted),
    path === null || stored !== undefined,
  )
  const isMissing = work.error !== null && !stored
  return (
    <>
      <WritingPane
        kind="page"
        work={work}
        isNew={path === null}
        title={parts.title}
        changeTitle={(title) => edit({ ...parts, title })}
        changeBody={(body) => body !== parts.body && edit({ ...parts, body })}
        view={view}
        changeView={changeView}
        preview={preview}
        problem={preview?.path === null ? words.writing.noPageRoute : problem}
        note={
          path === null
            ? words.writing.newPage
            : work.isChanged
              ? words.writing.unsavedChanges
              : words.writing.asReaders
        }
        isPreview={path === null || work.isChanged}
        facts={preview ? text.words(preview.wordCount) : ''}
        unsaved={path === null ? words.writing.notSavedYet : words.writing.notSaved}
        seen={stored?.address ?? null}
        walk={stored?.address ? `/walk?path=${encodeURIComponent(stored.address)}` : null}
        close={close}
      />
      {isMissing ? null : <PageFacts work={work} path={path} pages={pages} move={move} close={close} />}
    </>
  )
}

function requestPreview(path: string | null, wanted: string) {
  const { title, body, inNavigation } = JSON.parse(wanted) as PageParts
  return call('POST /api/page/preview', {
    body: { path, title: title.trim() === '' ? words.writing.untitled : title, body, inNavigation },
  })
}

/** Stands for no parent in the list. */
const TOP = ''

interface FactsProps extends Pick<Props, 'path' | 'pages' | 'move' | 'close'> {
  work: PageWork
}

function PageFacts({ work, path, pages, move, close }: FactsProps) {
  const { parts, stored, isReading, edit } = work
  const write = useWrite()
  const notices = useNotices()
  const noteDeletion = useDeletionNotice()
  const slugButton = useRef<HTMLButtonElement>(null)
  const [isSlugOpen, setSlugOpen] = useState(false)
  const below = path === null ? [] : pages.filter((one) => one.path.startsWith(`${path}/`))
  const choices = [
    { value: TOP, label: text.top },
    ...pages
      .filter((one) => one.path !== path && !below.includes(one))
      .map((one) => ({ value: one.path, label: `${'— '.repeat(one.depth)}${one.title}` })),
  ]
  const closeSlug = () => {
    setSlugOpen(false)
    focusLater(() => slugButton.current)
  }
  const remove = async () => {
    if (!stored) return
    try {
      const {
        deleted,
        pages: count,
        title,
      } = await write('POST /api/page/delete', {
        query: { path: stored.path },
        body: { version: stored.version },
      })
      close()
      noteDeletion(text.deleted(title, count - 1), [deleted])
    } catch (error) {
      notices.failed(error)
    }
  }
  return (
    <section className="pane post-facts" aria-label={text.facts}>
      <header>
        <h1>{text.facts}</h1>
        <span className="grow" />
        {stored ? (
          // While the row is read again after a move, its version may be outdated.
          <Button size="small" danger type="text" disabled={isReading} onClick={() => void remove()}>
            {shared.delete}
          </Button>
        ) : null}
      </header>
      <div className="scroll">
        <div className="fields">
          <div className="field">
            <span>{text.address}</span>
            {stored ? (
              <>
                <span className="plate">{stored.address ?? stored.path}</span>
                {isSlugOpen ? (
                  <SlugField
                    kind="page"
                    own={stored.path}
                    save={(slug) => {
                      closeSlug()
                      void move(stored.path, { ...placeOf(pages, stored.path), slug })
                    }}
                    close={closeSlug}
                  />
                ) : (
                  <span className="muted">
                    <button ref={slugButton} type="button" className="link" onClick={() => setSlugOpen(true)}>
                      {text.changeSlug}
                    </button>
                  </span>
                )}
                {stored.former.length > 0 ? (
                  <span className="muted">{words.redirects(stored.former)}</span>
                ) : null}
              </>
            ) : (
              <span className="muted">{text.newAddress}</span>
            )}
          </div>
          <label>
            {text.below}
            <Select
              aria-label={text.below}
              value={(stored ? parentOf(stored.path) : parts.parent) ?? TOP}
              options={choices}
              showSearch={{ optionFilterProp: 'label' }}
              onChange={(parent: string) => {
                const wanted = parent === TOP ? null : parent
                if (stored) void move(stored.path, { parent: wanted, before: null })
                else edit({ ...parts, parent: wanted })
              }}
            />
            {below.length > 0 ? <span className="muted">{text.movesWith(below.length)}</span> : null}
          </label>
          <label className="row">
            <Switch
              size="small"
              checked={parts.inNavigation}
              onChange={(inNavigation) => edit({ ...parts, inNavigation })}
            />
            {text.showInNavigation}
          </label>
        </div>
      </div>
    </section>
  )
}

/** Returns the current place of a page, which a new slug does not change. */
function placeOf(pages: readonly PageSummary[], path: string): Place {
  const siblings = pages.filter((one) => one.parent === parentOf(path))
  const at = siblings.findIndex((one) => one.path === path)
  return { parent: parentOf(path), before: siblings[at + 1]?.path ?? null }
}
