/** The post that is open: what is written, and its facts. */
import { call } from '../../../api/client.ts'
import { plural } from '../../../shared/words/words.ts'
import { PostFacts } from './post-facts.tsx'
import { useDeletePosts } from './post-list.tsx'
import { usePost, type Parts, type PostWork } from './use-post.ts'
import { usePreview } from '../writing/use-preview.ts'
import type { View } from '../parts/views.tsx'
import { WritingPane } from '../writing/writing-pane.tsx'

interface Props {
  /** null: a new one */
  slug: string | null
  view: View
  changeView(view: View): void
  moved(slug: string): void
  close(): void
}

export function OpenPost({ slug, view, changeView, moved, close }: Props) {
  const work = usePost(slug, moved)
  const { parts, stored } = work
  const { preview: shown, problem } = usePreview(
    JSON.stringify(parts),
    (wanted) => preview(slug, wanted),
    slug === null || stored !== undefined,
  )
  const deletePosts = useDeletePosts()
  const minutes = Math.max(1, Math.round((shown?.wordCount ?? 0) / 220))
  const isMissing = work.error !== null && !stored
  return (
    <>
      <WritingPane
        what="post"
        work={work}
        isNew={slug === null}
        title={parts.matter.title}
        changeTitle={(title) => work.change({ title })}
        changeBody={work.changeBody}
        view={view}
        changeView={changeView}
        shown={shown}
        problem={shown?.path === null ? 'No route shows single posts: add one under Routes.' : problem}
        readers={readersGet(work)}
        facts={shown ? `${plural(shown.wordCount, 'word')} · ${minutes} min to read` : ''}
        unsaved={
          stored && stored.state !== 'draft'
            ? 'not saved; readers see what was saved last'
            : parts.matter.title.trim() === ''
              ? 'a title, and it saves itself'
              : 'not saved yet'
        }
        seen={stored?.state === 'published' ? stored.address : null}
        walk={stored?.address ? `/walk?path=${encodeURIComponent(stored.address)}&as=author` : null}
        close={close}
      />
      {isMissing ? null : (
        <PostFacts
          work={work}
          opening={shown?.excerpt ?? stored?.excerpt ?? ''}
          remove={() =>
            stored &&
            void deletePosts([{ slug: stored.slug, version: stored.version }]).then((gone) => gone && close())
          }
        />
      )}
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
