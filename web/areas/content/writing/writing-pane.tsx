/** What is written: its title and text, its page beside it, saving, and what stands against it. */
import { Button, Input } from 'antd'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import { useSession } from '../../../shared/frame/session.ts'
import { Notices } from './notices.tsx'
import type { Draft } from './use-draft.ts'
import { Views, type View } from '../parts/views.tsx'
import { WrittenPage } from './written-page.tsx'
import { WrittenText } from './written-text.tsx'
import './writing.css'

interface Props {
  /** post, page */
  what: string
  work: Draft<{ body: string }, unknown>
  isNew: boolean
  title: string
  changeTitle(title: string): void
  changeBody(body: string): void
  view: View
  changeView(view: View): void
  shown: { html: string; path: string | null } | null
  /** Why the page is not shown, or not anew. */
  problem: string | null
  /** What readers get at its address, and whether that is something else. */
  readers: { readers: string; isPreview: boolean }
  /** Length and such, for the last line. */
  facts: string
  /** What is not saved yet, in words. */
  unsaved: string
  /** Where readers see what is stored; null where they don’t. */
  seen: string | null
  /** Where what is stored can be walked; null where nothing shows it. */
  walk: string | null
  close(): void
}

export function WritingPane(props: Props) {
  const { what, work, isNew, title, view, shown, problem } = props
  const session = useSession()
  if (work.error && !work.stored)
    return (
      <section className="pane writing-pane wide">
        <div className="quiet">
          <h1>{work.error.message}</h1>
          <Button onClick={props.close}>Back to the list</Button>
        </div>
      </section>
    )
  return (
    <section className="pane writing-pane" aria-label="Writing">
      <header>
        <Input
          variant="borderless"
          className="title"
          aria-label="Title"
          placeholder="Title"
          maxLength={300}
          value={title}
          onChange={(event) => props.changeTitle(event.target.value)}
        />
        <Views view={view} change={props.changeView} />
        <Button
          type="primary"
          disabled={!work.isChanged || title.trim() === ''}
          loading={work.save.kind === 'saving'}
          onClick={() => void work.saveNow()}
          aria-keyshortcuts="Control+S"
        >
          Save
        </Button>
      </header>
      <Notices work={work} what={what} />
      <div className={`sheets ${view}`}>
        {view === 'page' ? null : !isNew && !work.stored ? (
          <div className="quiet small">Opening the {what} …</div>
        ) : (
          <WrittenText
            text={work.parts.body}
            change={props.changeBody}
            label={`Text of the ${what}, in Markdown`}
          />
        )}
        {view === 'text' ? null : shown?.path && session.data ? (
          <WrittenPage html={shown.html} path={shown.path} origin={session.data.blog} {...props.readers} />
        ) : (
          <div className="quiet small">{problem ?? 'Making the page …'}</div>
        )}
      </div>
      <footer>
        <span>
          {shown ? props.facts : ''}
          {problem !== null && shown ? (
            <span className="failed"> · the page is not shown anew: {problem}</span>
          ) : null}
        </span>
        <span className="grow" />
        <SaveNote work={work} unsaved={props.unsaved} />
        {props.seen === null || !session.data ? null : (
          <a className="link" href={session.data.blog + props.seen} target="_blank" rel="noreferrer">
            View it ↗
          </a>
        )}
        {props.walk === null ? null : (
          <Link className="link" to={props.walk}>
            Walk it
          </Link>
        )}
      </footer>
    </section>
  )
}

function SaveNote({ work: { save, isChanged }, unsaved }: Pick<Props, 'work' | 'unsaved'>): ReactNode {
  if (save.kind === 'saving') return <span role="status">saving …</span>
  if (isChanged) return <span role="status">{unsaved}</span>
  return save.kind === 'saved' ? <span role="status">saved</span> : <span>Ctrl S saves</span>
}
