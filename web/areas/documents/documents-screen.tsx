/** Templates, assets and settings, beside an editor. */
import { useQuery } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'
import type { DocumentSummary, RouteSummary } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'
import { DocumentEditor } from '../../shared/editor/document-editor.tsx'
import { areaOf } from '../../shared/editor/documents.ts'
import { Plate, Unsaved } from '../../shared/marks/marks.tsx'
import { NewDocument } from '../../shared/editor/new-document.tsx'
import { plainName, plural } from '../../shared/words/words.ts'
import { useWritten } from '../../shared/editor/written.ts'
import './documents.css'

const templateAt = (name: string): string => `templates/${name}.liquid`
/** Without one of their folders, it is a partial. */
const templateName = (typed: string): string => {
  const [, folder = 'partials', name = ''] = /^\s*(?:(layouts|pages|partials)\/)?(.*)$/s.exec(typed) ?? []
  const plain = plainName(name)
  return plain === '' ? '' : `${folder}/${plain}`
}
const STARTER = '<!-- what this part of a page shows -->\n'

/** What is open where the address names nothing. */
const FIRST = 'templates/pages/'

export function DocumentsScreen() {
  const [parameters, setParameters] = useSearchParams()
  const documents = useQuery({ queryKey: ['documents'], queryFn: () => call('GET /api/documents', {}) })
  const routes = useQuery({ queryKey: ['routes'], queryFn: () => call('GET /api/routes', {}) })
  const mine = (documents.data ?? []).filter((one) => areaOf(one.path) === 'templates')
  const open = parameters.get('open') ?? mine.find((one) => one.path.startsWith(FIRST))?.path
  const line = Number(parameters.get('line')) || undefined
  const choose = (path: string) => setParameters({ open: path })
  return (
    <main className="documents">
      <section className="pane" aria-label="Templates">
        <header>
          <h1>Templates</h1>
          <span className="muted">{plural(mine.length, 'document')}</span>
        </header>
        <div className="scroll">
          <DocumentList documents={mine} open={open} choose={choose} />
          <NewDocument
            hint="partials/name of a new template"
            starter={STARTER}
            nameOf={templateName}
            pathOf={templateAt}
            made={(name) => choose(templateAt(name))}
          />
        </div>
      </section>
      <section className="pane" aria-label="Editor">
        {open === undefined ? (
          <div className="quiet">Choose a document on the left.</div>
        ) : (
          <DocumentEditor
            key={open}
            path={open}
            line={line}
            height="100%"
            extra={<Uses path={open} routes={routes.data ?? []} />}
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
  const written = useWritten(({ of }) => of)
  const folders = new Map<string, DocumentSummary[]>()
  for (const one of documents) {
    const folder = one.path.includes('/') ? one.path.slice(0, one.path.lastIndexOf('/')) : ''
    folders.set(folder, [...(folders.get(folder) ?? []), one])
  }
  return [...folders].map(([folder, ones]) => (
    <div key={folder} className="folder">
      <h2>{folder === '' ? 'Documents' : folder}</h2>
      <ul>
        {ones.map((one) => (
          <li key={one.path}>
            <button aria-current={one.path === open ? 'true' : undefined} onClick={() => choose(one.path)}>
              {one.path.slice(folder === '' ? 0 : folder.length + 1)}
              {written[one.path] ? <Unsaved /> : null}
            </button>
          </li>
        ))}
      </ul>
    </div>
  ))
}

/** Routes that need the open document, each to be walked. */
function Uses({ path, routes }: { path: string; routes: RouteSummary[] }) {
  const name = path.replace(/^templates\//, '').replace(/\.\w+$/, '')
  const users = routes.filter((one) => one.example !== null && one.template === name)
  return users.slice(0, 3).map((one) => (
    <Link
      key={one.name}
      className="use"
      to={`/walk?path=${encodeURIComponent(one.example ?? '/')}&edit=${encodeURIComponent(path)}`}
      title={`Walk ${one.example ?? ''} with this document open`}
    >
      <Plate pattern={one.path} />
    </Link>
  ))
}
