/** The documents in groups, each with where it is used. */
import type { DocumentSummary } from '../../../contract/documents.ts'
import type { RouteSummary } from '../../../contract/routes.ts'
import { useUnsavedTexts } from '../../shared/editor/unsaved-texts.ts'
import { Unsaved } from '../../shared/marks/marks.tsx'
import { GROUPS, groupOf, nameInGroup, usersOf } from './groups.ts'
import { words } from './words.ts'

interface Props {
  documents: readonly DocumentSummary[]
  routes: readonly RouteSummary[]
  open: string | undefined
  choose(path: string): void
}

export function TemplateList({ documents, routes, open, choose }: Props) {
  const unsaved = useUnsavedTexts(({ of }) => of)
  return GROUPS.map((group) => {
    const inside = documents.filter((one) => groupOf(one.path) === group)
    if (inside.length === 0) return null
    return (
      <div key={group} className="folder">
        <h2>{words.groups[group]}</h2>
        <ul>
          {inside.map((one) => (
            <li key={one.path}>
              <button
                type="button"
                aria-current={one.path === open ? 'true' : undefined}
                title={one.usedBy.length === 0 ? words.unusedHint : words.usedBy(one.usedBy)}
                onClick={() => choose(one.path)}
              >
                <span className="name">{nameInGroup(one.path)}</span>
                {unsaved[one.path] ? <Unsaved /> : null}
                <Use document={one} documents={documents} routes={routes} />
              </button>
            </li>
          ))}
        </ul>
      </div>
    )
  })
}

function Use({
  document,
  documents,
  routes,
}: Pick<Props, 'documents' | 'routes'> & { document: DocumentSummary }) {
  if (document.usedBy.length === 0) return <span className="use look">{words.unused}</span>
  const { routes: users, isNotFound } = usersOf(document.path, documents, routes)
  const [only] = users
  if (users.length > 1) return <span className="use">{words.routes(users.length)}</span>
  return <span className="use">{only ? only.path : isNotFound ? words.errorPage : ''}</span>
}
