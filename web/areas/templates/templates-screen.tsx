/** The Templates area: documents in groups, an editor, what the open template sees, and the page beside it. */
import { Button } from 'antd'
import { lazy, Suspense, useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import type { DocumentSummary } from '../../../contract/documents.ts'
import type { RouteSummary } from '../../../contract/routes.ts'
import { namedAt } from '../../../core/templates/authoring/under-cursor.ts'
import { SHARED_NAMES } from '../../../core/templates/shared-names.ts'
import { formatTemplate } from '../../../core/templates/authoring/format.ts'
import { assetPath, templatePath } from '../../../core/shapes/documents.ts'
import { useRead } from '../../api/queries.ts'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { completionFor } from '../../shared/editor/completion.ts'
import { DocumentEditor } from '../../shared/editor/document-editor.tsx'
import { areaOf, documentLink } from '../../shared/editor/documents.ts'
import { NewDocument } from '../../shared/editor/new-document.tsx'
import { starterOf } from '../../shared/editor/starters.ts'
import { useUnsavedTexts } from '../../shared/editor/unsaved-texts.ts'
import { useSession } from '../../shared/frame/session.ts'
import { documentNameOf } from '../../shared/words/format.ts'
import { words as shared } from '../../shared/words/words.ts'
import { ExtractPartial } from './extract-partial.tsx'
import { addressWith, usersOf } from './groups.ts'
import { PagePreview } from './page-preview.tsx'
import { TemplateList } from './template-list.tsx'
import { faultsOf, TemplateTabs } from './template-tabs.tsx'
import { RearrangeDialog, RearrangeMenu, type Rearrangement } from './rearrange.tsx'
import { usePlace } from './use-place.ts'
import { usePreview } from './use-preview.ts'
import { useStyles } from './use-styles.ts'
import { scopeAt } from './value-tree.tsx'
import { words } from './words.ts'
import './templates.css'

/**
 * Converts a typed text to a document's name within its kind: `blog.css` is an asset, `pages/home` a template, and
 * `card` a partial.
 */
function nameOf(typed: string): string {
  const [, stem = '', extension] = /^\s*(?:assets\/)?(.*?)\.(css|js)\s*$/s.exec(typed) ?? []
  if (extension !== undefined) {
    const name = documentNameOf(stem)
    return name === '' ? '' : `${name}.${extension}`
  }
  const [, folder = 'partials', rest = ''] = /^\s*(?:(layouts|pages|partials)\/)?(.*)$/s.exec(typed) ?? []
  const name = documentNameOf(rest)
  return name === '' ? '' : `${folder}/${name}`
}
const pathOf = (name: string) => (name.includes('/') ? templatePath(name) : assetPath(name))

/** It brings a parser of CSS with it. */
const TokenPanel = lazy(async () => ({ default: (await import('./token-panel.tsx')).TokenPanel }))

/** The folder of the document that is opened first. */
const FIRST = 'templates/pages/'
const NONE: readonly DocumentSummary[] = []
const NO_ROUTES: readonly RouteSummary[] = []

export function TemplatesScreen() {
  const { place, change } = usePlace()
  const documents = useRead('GET /api/documents', {})
  const routes = useRead('GET /api/routes', {})
  const { apply } = useChanges()
  const list = useRef<HTMLDivElement>(null)
  const all = documents.data ?? NONE
  const own = all.filter((one) => areaOf(one.path) === 'templates')
  const open = place.open ?? own.find((one) => one.path.startsWith(FIRST))?.path ?? own[0]?.path
  const summary = own.find((one) => one.path === open)
  const choose = (path: string) => change({ open: path, line: undefined, path: undefined, time: 1 })
  const remove = async ({ path, version }: DocumentSummary) => {
    const isDeleted = await apply([{ do: 'delete-document', document: path, version }], words.deleted(path))
    if (!isDeleted) return
    change({ open: undefined, line: undefined })
    list.current?.querySelector('button')?.focus()
  }
  return (
    <main className="templates">
      <section className="pane" aria-label={words.title}>
        <header>
          <h1>{words.title}</h1>
          <span className="muted">{documents.data ? own.length : ''}</span>
        </header>
        <div className="scroll" ref={list}>
          {own.length === 0 && documents.data ? <p className="quiet small">{words.empty}</p> : null}
          <TemplateList documents={own} routes={routes.data ?? NO_ROUTES} open={open} choose={choose} />
        </div>
        <NewDocument
          hint={words.newDocument}
          starter={(name) => starterOf(pathOf(name)) ?? ''}
          nameOf={nameOf}
          pathOf={pathOf}
          onCreated={(name) => choose(pathOf(name))}
        />
      </section>
      {open === undefined ? (
        <section className="pane wide" aria-label={words.editor}>
          <div className="quiet">{words.choose}</div>
        </section>
      ) : (
        <OpenTemplate
          key={open}
          path={open}
          target={place.path ?? addressWith(usersOf(open, all, routes.data ?? NO_ROUTES))}
          isReady={documents.data !== undefined && routes.data !== undefined}
          saved={documents.dataUpdatedAt}
          remove={summary?.usedBy.length === 0 ? () => void remove(summary) : undefined}
        />
      )}
    </main>
  )
}

interface OpenProps {
  path: string
  /** The address of the preview. */
  target: string | undefined
  isReady: boolean
  /** Changes with every save. */
  saved: number
  remove: (() => void) | undefined
}

function OpenTemplate({ path, target, isReady, saved, remove }: OpenProps) {
  const { place, change } = usePlace()
  const session = useSession()
  const routes = useRead('GET /api/routes', {})
  const navigate = useNavigate()
  const unsaved = useUnsavedTexts(({ of }) => of)
  const [line, setLine] = useState(place.line ?? 1)
  const [selection, setSelection] = useState<[number, number]>([0, 0])
  const [typed, setTyped] = useState('')
  const [isExtracting, setExtracting] = useState(false)
  const [rearrangement, setRearrangement] = useState<Rearrangement>()
  const [from, to] = selection
  const texts = useMemo(
    () =>
      Object.fromEntries(
        Object.entries(unsaved).flatMap(([one, { text }]) =>
          areaOf(one) === 'templates' ? [[one, text]] : [],
        ),
      ),
    [unsaved],
  )
  const preview = usePreview(
    isReady && target !== undefined ? { document: path, texts, target, time: place.time } : undefined,
    saved,
  )
  const styles = useStyles(texts)
  // Of another document, until the page was rendered for this one.
  const answer = preview.request?.document === path ? preview.answer : undefined
  const hints = useMemo(() => (answer ? faultsOf(answer, path) : []), [answer, path])
  const isTemplate = path.startsWith('templates/')
  const takes =
    path.startsWith('templates/partials/') && answer ? argumentsOf(answer.reads.map((one) => one.path)) : []

  const describe = (text: string, at: number) => {
    const named = namedAt(text, at)
    if (!answer || named?.kind !== 'path') return undefined
    const row = scopeAt(answer, text.slice(0, at).split('\n').length)?.rows.find(
      (one) => one.path === named.value,
    )
    if (!row) return undefined
    const type = row.canBeEmpty ? words.values.orNothing(row.type) : row.type
    const value = row.value === null ? words.values.unknown : row.isEmpty ? words.values.empty : row.value
    return {
      from: named.from,
      to: named.to,
      lines: [`${row.path}: ${type}`, ...(value === '' ? [] : [value])],
    }
  }
  const follow = (text: string, at: number): boolean => {
    const named = namedAt(text, at)
    if (!named) return false
    const to = linkTo(named.kind === 'text' ? named.value : undefined)
    if (to === undefined) return false
    void navigate(to)
    return true
  }
  const linkTo = (name: string | undefined): string | undefined => {
    if (name === undefined) return undefined
    if (/^(layouts|pages|partials)\//.test(name)) return documentLink(templatePath(name))
    if (/\.(css|js)$/.test(name)) return documentLink(assetPath(name))
    const route = routes.data?.find((one) => one.name === name)
    return route && documentLink('routes.yaml', route.line)
  }
  const select = (at: { document: string; line: number; time?: number }) =>
    change({ open: at.document, line: at.line, time: at.time ?? 1, ...(target ? { path: target } : {}) })
  return (
    <>
      <section className="pane edited" aria-label={words.editor}>
        <DocumentEditor
          path={path}
          line={place.line}
          height="100%"
          complete={completionFor(path, preview.shown?.page.route)}
          hints={hints}
          onLine={setLine}
          onSelection={(start, end) => setSelection([start, end])}
          onText={setTyped}
          describe={describe}
          follow={follow}
          format={isTemplate ? formatTemplate : undefined}
          note={takes.length === 0 ? null : <span className="muted takes">{words.takes(takes)}</span>}
          extra={
            <>
              {isTemplate && from < to ? (
                <Button size="small" title={words.extract.hint} onClick={() => setExtracting(true)}>
                  {words.extract.button}
                </Button>
              ) : null}
              <RearrangeMenu document={path} typed={typed} at={from} choose={setRearrangement} />
              {remove ? (
                <Button size="small" danger onClick={remove}>
                  {shared.delete}
                </Button>
              ) : null}
            </>
          }
        />
        {isTemplate ? (
          <TemplateTabs
            answer={answer}
            document={path}
            line={line}
            tab={place.tab}
            time={place.time}
            choose={(tab) => change({ tab })}
            chooseTime={(time) => change({ time })}
            open={select}
          />
        ) : path.endsWith('.css') ? (
          <Suspense fallback={null}>
            <TokenPanel
              css={unsaved[path]?.text ?? typed}
              change={(css) => useUnsavedTexts.getState().write(path, css, unsaved[path]?.base ?? typed)}
              open={(at) => change({ line: at })}
            />
          </Suspense>
        ) : null}
        <footer className="keys muted">{words.keys}</footer>
        {isExtracting ? (
          <ExtractPartial
            selected={{ document: path, text: typed, from, to }}
            close={() => setExtracting(false)}
            onCreated={(created) => {
              setExtracting(false)
              change({ open: created, line: undefined, time: 1, ...(target ? { path: target } : {}) })
            }}
          />
        ) : null}
        {rearrangement ? (
          <RearrangeDialog
            rearrangement={rearrangement}
            close={() => setRearrangement(undefined)}
            onApplied={(to) => {
              setRearrangement(undefined)
              change({
                open: to,
                line: to === path ? line : undefined,
                time: 1,
                ...(target ? { path: target } : {}),
              })
            }}
          />
        ) : null}
      </section>
      <PagePreview
        preview={preview}
        origin={session.data?.blog ?? ''}
        document={path}
        line={line}
        target={target}
        width={place.width}
        scheme={place.scheme}
        styles={styles}
        hasUnsaved={Object.keys(texts).length > 0}
        change={(changes) => change({ ...changes, ...(changes.path === undefined ? {} : { time: 1 }) })}
        select={select}
      />
    </>
  )
}

/** Names that loops and blocks bind. */
const LOCAL = new Set(['forloop', 'tablerowloop', 'block'])

/** Returns the names that a partial reads and its callers must pass. */
function argumentsOf(paths: readonly string[]): string[] {
  const roots = paths.map((one) => /^\w+/.exec(one)?.[0] ?? '')
  return [...new Set(roots)].filter((one) => one !== '' && !SHARED_NAMES.has(one) && !LOCAL.has(one))
}
