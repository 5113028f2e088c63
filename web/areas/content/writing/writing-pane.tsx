/** Writing: the title and the text, the page beside them, and saving. */
import { Button, Input } from 'antd'
import { useRef, type ReactNode } from 'react'
import { Link } from 'react-router'
import { focusLater } from '../../../shared/focus/focus.ts'
import { useSession } from '../../../shared/frame/session.ts'
import { words as shared } from '../../../shared/words/words.ts'
import { Views, type View } from '../parts/views.tsx'
import { words } from '../words.ts'
import { SaveProblems } from './save-problems.tsx'
import type { Draft } from './use-draft.ts'
import { WrittenPage } from './written-page.tsx'
import { WrittenText } from './written-text.tsx'
import './writing.css'

const text = words.writing

interface Props {
  kind: 'post' | 'page'
  work: Draft<{ body: string }, unknown>
  isNew: boolean
  title: string
  changeTitle(title: string): void
  changeBody(body: string): void
  view: View
  changeView(view: View): void
  preview: { html: string; policy: string | null; path: string | null } | null
  /** Why there is no preview, or no current one. */
  problem: string | null
  /** How the preview differs from what readers get. */
  note: string
  isPreview: boolean
  /** Length and such, for the last line. */
  facts: string
  /** The state of unsaved changes. */
  unsaved: string
  /** The address at which readers see the stored version; null if they do not. */
  seen: string | null
  /** Link to a walk of the stored version; null if no route shows it. */
  walk: string | null
  close(): void
}

export function WritingPane(props: Props) {
  const { kind, work, isNew, title, view, preview, problem } = props
  const session = useSession()
  const pane = useRef<HTMLElement>(null)
  const resume = () => focusLater(() => pane.current?.querySelector<HTMLElement>('.cm-content, .title'))
  if (work.error && !work.stored)
    return (
      <section className="pane writing-pane wide">
        <div className="quiet">
          <h1>{work.error.message}</h1>
          <Button onClick={props.close}>{text.backToList}</Button>
        </div>
      </section>
    )
  return (
    <section ref={pane} className="pane writing-pane" aria-label={text.label}>
      <header>
        <Input
          variant="borderless"
          className="title"
          aria-label={text.title}
          placeholder={text.title}
          maxLength={300}
          disabled={work.isOpening}
          value={title}
          onChange={(event) => props.changeTitle(event.target.value)}
        />
        <Views view={view} change={props.changeView} />
        <Button
          type="primary"
          disabled={!work.isChanged || title.trim() === ''}
          loading={work.save.kind === 'saving'}
          onClick={() => void work.saveNow().then(resume)}
          aria-keyshortcuts="Control+S"
        >
          {shared.save}
        </Button>
      </header>
      <SaveProblems work={work} kind={kind} resume={resume} />
      <div className={`sheets ${view}`}>
        {view === 'page' ? null : !isNew && !work.stored ? (
          <div className="quiet small">{text.opening(kind)}</div>
        ) : (
          <WrittenText text={work.parts.body} change={props.changeBody} label={text.text(kind)} />
        )}
        {view === 'text' ? null : preview?.path && preview.policy !== null && session.data ? (
          <WrittenPage
            html={preview.html}
            policy={preview.policy}
            address={session.data.blog + preview.path}
            note={props.note}
            isPreview={props.isPreview}
          />
        ) : (
          <div className="quiet small">{problem ?? text.rendering}</div>
        )}
      </div>
      <footer>
        <span>
          {preview ? props.facts : ''}
          {problem !== null && preview ? (
            <span className="failed">{text.outdatedPreview(problem)}</span>
          ) : null}
        </span>
        <span className="grow" />
        <SaveNote work={work} unsaved={props.unsaved} />
        {props.seen === null || !session.data ? null : (
          <a className="link" href={session.data.blog + props.seen} target="_blank" rel="noreferrer">
            {text.view}
          </a>
        )}
        {props.walk === null ? null : (
          <Link className="link" to={props.walk}>
            {text.walk}
          </Link>
        )}
      </footer>
    </section>
  )
}

function SaveNote({ work: { save, isChanged }, unsaved }: Pick<Props, 'work' | 'unsaved'>): ReactNode {
  if (save.kind === 'saving') return <span role="status">{text.saving}</span>
  if (isChanged) return <span role="status">{unsaved}</span>
  return save.kind === 'saved' ? <span role="status">{text.saved}</span> : <span>{text.saveHint}</span>
}
