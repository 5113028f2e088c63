/** The Templates area: templates, stylesheets and scripts beside an editor. */
import { Button } from 'antd'
import { useRef } from 'react'
import { Link, useSearchParams } from 'react-router'
import type { DocumentSummary } from '../../../contract/documents.ts'
import type { RouteSummary } from '../../../contract/routes.ts'
import { assetPath, documentName, templatePath } from '../../../core/shapes/documents.ts'
import { useRead } from '../../api/queries.ts'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { completionFor } from '../../shared/editor/completion.ts'
import { DocumentEditor } from '../../shared/editor/document-editor.tsx'
import { areaOf } from '../../shared/editor/documents.ts'
import { NewDocument } from '../../shared/editor/new-document.tsx'
import { starterOf } from '../../shared/editor/starters.ts'
import { useUnsavedTexts } from '../../shared/editor/unsaved-texts.ts'
import { Plate, Unsaved } from '../../shared/marks/marks.tsx'
import { documentNameOf } from '../../shared/words/format.ts'
import { words as shared } from '../../shared/words/words.ts'
import { words } from './words.ts'
import './documents.css'

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

/** The folder of the document that is opened first. */
const FIRST = 'templates/pages/'

/** How many routes are offered to walk with the open document. */
const WALKS_SHOWN = 3

export function DocumentsScreen() {
  const [parameters, setParameters] = useSearchParams()
  const documents = useRead('GET /api/documents', {})
  const routes = useRead('GET /api/routes', {})
  const { apply } = useChanges()
  const list = useRef<HTMLDivElement>(null)
  const own = (documents.data ?? []).filter((one) => areaOf(one.path) === 'templates')
  const open = parameters.get('open') ?? own.find((one) => one.path.startsWith(FIRST))?.path ?? own[0]?.path
  const line = Number(parameters.get('line')) || undefined
  const choose = (path: string) => setParameters({ open: path })
  const remove = async ({ path, version }: DocumentSummary) => {
    const isDeleted = await apply([{ do: 'delete-document', document: path, version }], words.deleted(path))
    if (!isDeleted) return
    setParameters({})
    list.current?.querySelector('button')?.focus()
  }
  const summary = own.find((one) => one.path === open)
  return (
    <main className="documents">
      <section className="pane" aria-label={words.title}>
        <header>
          <h1>{words.title}</h1>
          <span className="muted">{words.count(own.length)}</span>
        </header>
        <div className="scroll" ref={list}>
          {own.length === 0 && documents.data ? <p className="quiet small">{words.empty}</p> : null}
          <DocumentList documents={own} open={open} choose={choose} />
          <NewDocument
            hint={words.newDocument}
            starter={(name) => starterOf(pathOf(name)) ?? ''}
            nameOf={nameOf}
            pathOf={pathOf}
            onCreated={(name) => choose(pathOf(name))}
          />
        </div>
      </section>
      <section className="pane" aria-label={words.editor}>
        {open === undefined ? (
          <div className="quiet">{words.choose}</div>
        ) : (
          <DocumentEditor
            key={open}
            path={open}
            line={line}
            height="100%"
            complete={completionFor(open)}
            extra={
              <>
                <Walks path={open} routes={routes.data ?? []} />
                {summary?.usedBy.length === 0 ? (
                  <Button size="small" danger onClick={() => void remove(summary)}>
                    {shared.delete}
                  </Button>
                ) : null}
              </>
            }
          />
        )}
      </section>
    </main>
  )
}

function DocumentList({
  documents,
  open,
  choose,
}: {
  documents: DocumentSummary[]
  open: string | undefined
  choose(path: string): void
}) {
  const unsaved = useUnsavedTexts(({ of }) => of)
  const folders = new Map<string, DocumentSummary[]>()
  for (const one of documents) {
    const folder = one.path.includes('/') ? one.path.slice(0, one.path.lastIndexOf('/')) : ''
    folders.set(folder, [...(folders.get(folder) ?? []), one])
  }
  return [...folders].map(([folder, inside]) => (
    <div key={folder} className="folder">
      <h2>{folder === '' ? words.otherDocuments : folder}</h2>
      <ul>
        {inside.map((one) => (
          <li key={one.path}>
            <button
              aria-current={one.path === open ? 'true' : undefined}
              title={one.usedBy.length === 0 ? words.unusedHint : words.usedBy(one.usedBy)}
              onClick={() => choose(one.path)}
            >
              {one.path.slice(folder === '' ? 0 : folder.length + 1)}
              {unsaved[one.path] ? <Unsaved /> : null}
              {one.usedBy.length === 0 ? <span className="unused">{words.unused}</span> : null}
            </button>
          </li>
        ))}
      </ul>
    </div>
  ))
}

/** Links to walks of routes that render the open document. */
function Walks({ path, routes }: { path: string; routes: RouteSummary[] }) {
  const name = documentName(path)
  const users = routes.filter((one) => one.example !== null && one.template === name)
  return users.slice(0, WALKS_SHOWN).map((one) => (
    <Link
      key={one.name}
      className="use"
      to={`/walk?path=${encodeURIComponent(one.example ?? '/')}&edit=${encodeURIComponent(path)}`}
      title={words.walk(one.example ?? '')}
    >
      <Plate pattern={one.path} />
    </Link>
  ))
}
