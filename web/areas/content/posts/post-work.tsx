/** The open post: its text and its facts. */
import { call } from '../../../api/client.ts'
import type { View } from '../parts/views.tsx'
import { usePreview } from '../writing/use-preview.ts'
import { WritingPane } from '../writing/writing-pane.tsx'
import { words } from '../words.ts'
import { PostFacts } from './post-facts.tsx'
import { useDeletePosts } from './use-delete-posts.ts'
import { usePost, type Parts, type PostWork } from './use-post.ts'

const text = words.writing

/** Reading speed, for the reading time: common practice. */
const WORDS_PER_MINUTE = 220

interface Props {
  /** null for a new post. */
  slug: string | null
  view: View
  changeView(view: View): void
  onRenamed(slug: string): void
  close(): void
}

export function OpenPost({ slug, view, changeView, onRenamed, close }: Props) {
  const work = usePost(slug, onRenamed)
  const { parts, stored } = work
  const { preview, problem } = usePreview(
    JSON.stringify(parts),
    (wanted) => requestPreview(slug, wanted),
    slug === null || stored !== undefined,
  )
  const deletePosts = useDeletePosts()
  const minutes = Math.max(1, Math.round((preview?.wordCount ?? 0) / WORDS_PER_MINUTE))
  const isMissing = work.error !== null && !stored
  const remove = async () => {
    if (stored && (await deletePosts([{ slug: stored.slug, version: stored.version }]))) close()
  }
  return (
    <>
      <WritingPane
        kind="post"
        work={work}
        isNew={slug === null}
        title={parts.matter.title}
        changeTitle={(title) => work.change({ title })}
        changeBody={work.changeBody}
        view={view}
        changeView={changeView}
        preview={preview}
        problem={preview?.path === null ? text.noPostRoute : problem}
        {...noteOn(work)}
        facts={preview ? words.posts.length(preview.wordCount, minutes) : ''}
        unsaved={
          stored && stored.state !== 'draft'
            ? text.notSaved
            : parts.matter.title.trim() === ''
              ? text.needsTitle
              : text.notSavedYet
        }
        seen={stored?.state === 'published' ? stored.address : null}
        walk={stored?.address ? `/walk?path=${encodeURIComponent(stored.address)}&as=author` : null}
        close={close}
      />
      {isMissing ? null : (
        <PostFacts
          work={work}
          startOfText={preview?.excerpt ?? stored?.excerpt ?? ''}
          remove={() => void remove()}
        />
      )}
    </>
  )
}

function requestPreview(slug: string | null, wanted: string) {
  const { matter, body } = JSON.parse(wanted) as Parts
  const title = matter.title.trim() === '' ? text.untitled : matter.title
  return call('POST /api/post/preview', { body: { slug, matter: { ...matter, title }, body } })
}

/** Returns how the preview differs from what readers get. */
function noteOn({ stored, isChanged }: PostWork): { note: string; isPreview: boolean } {
  if (stored?.state !== 'published')
    return { note: text.unpublished(stored?.state ?? 'draft'), isPreview: true }
  return isChanged
    ? { note: text.unsavedChanges, isPreview: true }
    : { note: text.asReaders, isPreview: false }
}
