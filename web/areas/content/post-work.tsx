/** The post that is open: its title and text, its page beside it, its facts; saving, and what stands against it. */
import { Button, Input } from 'antd'
import { Link } from 'react-router'
import { call } from '../../api/client.ts'
import { useSession } from '../../shared/session.ts'
import { plural } from '../../shared/words.ts'
import { Notices } from './notices.tsx'
import { PostFacts } from './post-facts.tsx'
import { useDeletePosts } from './post-list.tsx'
import { usePost, type Parts, type PostWork } from './use-post.ts'
import { usePreview } from './use-preview.ts'
import { Views, type View } from './views.tsx'
import { WrittenPage } from './written-page.tsx'
import { WrittenText } from './written-text.tsx'

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
  const asked = usePreview(
    JSON.stringify(parts),
    (wanted) => preview(slug, wanted),
    slug === null || stored !== undefined,
  )
  const { preview: shown } = asked
  const problem = shown?.path === null ? 'No route shows single posts: add one under Routes.' : asked.problem
  const deletePosts = useDeletePosts()
  if (work.error && !stored)
    return (
      <section className="pane writing-pane">
        <div className="quiet">
          <h1>{work.error.message}</h1>
          <Button onClick={close}>Back to the list</Button>
        </div>
      </section>
    )
  const minutes = Math.max(1, Math.round((shown?.wordCount ?? 0) / 220))
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
          <Views view={view} change={changeView} />
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
        <Notices work={work} what="post" />
        <div className={`sheets ${view}`}>
          {view === 'page' ? null : slug !== null && !stored ? (
            <div className="quiet small">Opening the post …</div>
          ) : (
            <WrittenText text={parts.body} change={work.changeBody} label="Text of the post, in Markdown" />
          )}
          {view === 'text' ? null : shown?.path && session.data ? (
            <WrittenPage
              html={shown.html}
              path={shown.path}
              origin={session.data.blog}
              {...readersGet(work)}
            />
          ) : (
            <div className="quiet small">{problem ?? 'Making the page …'}</div>
          )}
        </div>
        <footer>
          <span>
            {shown ? `${plural(shown.wordCount, 'word')} · ${minutes} min to read` : ''}
            {problem !== null && shown ? (
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
        opening={shown?.excerpt ?? stored?.excerpt ?? ''}
        remove={() =>
          stored &&
          void deletePosts([{ slug: stored.slug, version: stored.version }]).then((gone) => gone && close())
        }
      />
    </>
  )
}

function preview(slug: string | null, wanted: string) {
  const { matter, body } = JSON.parse(wanted) as Parts
  const title = matter.title.trim() === '' ? 'Without a title' : matter.title
  return call('POST /api/post/preview', { body: { slug, matter: { ...matter, title }, body } })
}

/** What readers get at the address of what is shown. */
function readersGet({ stored, isChanged }: PostWork): { readers: string; isPreview: boolean } {
  if (stored?.state !== 'published')
    return {
      readers: `of a ${stored?.state === 'scheduled' ? 'scheduled post' : 'draft'}: readers get 404 here`,
      isPreview: true,
    }
  return isChanged
    ? { readers: 'of what is not saved: readers see the last save', isPreview: true }
    : { readers: 'As readers see it', isPreview: false }
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
