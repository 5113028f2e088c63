/** The post that is open: its title and text, its page beside it, its facts; saving, and what stands against it. */
import { Alert, Button, Input, Segmented } from 'antd'
import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import { useSession } from '../../shared/session.ts'
import { Diff } from '../../shared/diff.tsx'
import { lineChanges } from '../../shared/line-changes.ts'
import { plural } from '../../shared/words.ts'
import { PostFacts } from './post-facts.tsx'
import { useDeletePosts } from './post-list.tsx'
import { PostPage, usePreview } from './post-page.tsx'
import { PostText } from './post-text.tsx'
import { usePost, type PostWork } from './use-post.ts'

type View = 'text' | 'both' | 'page'
const VIEWS: { value: View; label: string }[] = [
  { value: 'text', label: 'Text' },
  { value: 'both', label: 'Both' },
  { value: 'page', label: 'Page' },
]

interface Props {
  slug: string | null
  view: View
  changeView(view: View): void
  moved(slug: string): void
  close(): void
}

export function OpenPost({ slug, view, changeView, moved, close }: Props) {
  const work = usePost(slug, moved)
  const { parts, stored } = work
  const session = useSession()
  const { preview, problem } = usePreview(slug, parts, slug === null || stored !== undefined)
  const deletePosts = useDeletePosts()
  const saveNow = useRef(work.saveNow)
  useEffect(() => {
    saveNow.current = work.saveNow
  })
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 's') {
        event.preventDefault()
        void saveNow.current()
      }
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
  if (work.error && !stored)
    return (
      <section className="pane writing-pane">
        <div className="quiet">
          <h1>{work.error.message}</h1>
          <Button onClick={close}>Back to the list</Button>
        </div>
      </section>
    )
  const minutes = Math.max(1, Math.round((preview?.wordCount ?? 0) / 220))
  return (
    <>
      <section className="pane writing-pane" aria-label="Writing">
        <header>
          <Input
            variant="borderless"
            className="title"
            aria-label="Title"
            placeholder="Title"
            maxLength={300}
            value={parts.matter.title}
            onChange={(event) => work.change({ title: event.target.value })}
          />
          <Segmented
            size="small"
            aria-label="What is shown"
            options={VIEWS}
            value={view}
            onChange={(next: View) => changeView(next)}
          />
          <Button
            type="primary"
            disabled={!work.isChanged || parts.matter.title.trim() === ''}
            loading={work.save.kind === 'saving'}
            onClick={() => void work.saveNow()}
            aria-keyshortcuts="Control+S"
          >
            Save
          </Button>
        </header>
        <Notices work={work} />
        <div className={`sheets ${view}`}>
          {view === 'page' ? null : slug !== null && !stored ? (
            <div className="quiet small">Opening the post …</div>
          ) : (
            <PostText text={parts.body} change={work.changeBody} />
          )}
          {view === 'text' ? null : preview?.path && session.data ? (
            <PostPage html={preview.html} path={preview.path} origin={session.data.blog} />
          ) : (
            <div className="quiet small">{problem ?? 'Making the page …'}</div>
          )}
        </div>
        <footer>
          <span>
            {preview ? `${plural(preview.wordCount, 'word')} · ${minutes} min to read` : ''}
            {problem !== null && preview ? (
              <span className="failed"> · the page is not shown anew: {problem}</span>
            ) : null}
          </span>
          <span className="grow" />
          <SaveNote work={work} />
          {stored?.address ? (
            <Link className="link" to={`/walk?path=${encodeURIComponent(stored.address)}&as=author`}>
              Walk it
            </Link>
          ) : null}
        </footer>
      </section>
      <PostFacts
        work={work}
        opening={preview?.excerpt ?? stored?.excerpt ?? ''}
        remove={() =>
          stored &&
          void deletePosts([{ slug: stored.slug, version: stored.version }]).then((gone) => gone && close())
        }
      />
    </>
  )
}

function SaveNote({ work: { save, isChanged, stored, parts } }: { work: PostWork }) {
  if (save.kind === 'saving') return <span role="status">saving …</span>
  if (isChanged)
    return (
      <span role="status">
        {stored && stored.state !== 'draft'
          ? 'not saved; readers see what was saved last'
          : parts.matter.title.trim() === ''
            ? 'a title, and it saves itself'
            : 'not saved yet'}
      </span>
    )
  if (save.kind === 'saved') return <span role="status">saved</span>
  return <span>Ctrl S saves</span>
}

function Notices({ work }: { work: PostWork }) {
  const { save, parts } = work
  const [isCompared, setCompared] = useState(false)
  if (save.kind === 'conflict')
    return (
      <div className="notices" role="alert">
        <Alert
          type="warning"
          banner
          title="Somebody else saved this post meanwhile"
          description="Nothing is lost: yours is here, theirs is stored. Compare the texts, then take one."
          action={
            <>
              <Button size="small" onClick={() => setCompared(!isCompared)}>
                {isCompared ? 'Hide' : 'Compare'}
              </Button>{' '}
              <Button size="small" onClick={() => void work.takeStored()}>
                Take theirs
              </Button>{' '}
              <Button size="small" danger onClick={() => void work.saveNow(save.version)}>
                Save mine
              </Button>
            </>
          }
        />
        {isCompared ? (
          <div className="compared">
            <p className="muted small">Lines with − are theirs only, with + yours only.</p>
            <Diff changes={lineChanges(save.text, parts.body)} />
          </div>
        ) : null}
      </div>
    )
  if (save.kind === 'refused') {
    const [first] = save.problems
    return (
      <div className="notices" role="alert">
        <Alert
          type="error"
          banner
          title={`Not saved${first ? `: ${first.message}` : `: ${save.title}`}`}
          description={first?.hint ?? save.detail}
        />
      </div>
    )
  }
  if (work.isBroughtBack)
    return (
      <div className="notices" role="status">
        <Alert
          type="info"
          banner
          title="What you had typed here is back; it was not saved"
          action={
            <Button size="small" onClick={work.discard}>
              Discard it
            </Button>
          }
        />
      </div>
    )
  return null
}
