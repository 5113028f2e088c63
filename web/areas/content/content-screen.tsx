/** Content: what there is to show, and where it appears. */
import { useCallback, useState } from 'react'
import { useSearchParams } from 'react-router'
import { PostList } from './post-list.tsx'
import { OpenPost } from './post-work.tsx'
import './content.css'

const NEW = '(new)'

export function ContentScreen() {
  const [parameters, setParameters] = useSearchParams()
  const change = useCallback(
    (changes: Readonly<Record<string, string | null>>) =>
      setParameters((known) => {
        const next = new URLSearchParams(known)
        for (const [name, value] of Object.entries(changes))
          if (value === null) next.delete(name)
          else next.set(name, value)
        return next
      }),
    [setParameters],
  )
  const open = parameters.get('post')
  // A post that gets another slug by a save stays open as it is: its editor keeps the cursor.
  const [follow, setFollow] = useState<{ from: string; to: string } | null>(null)
  const key = follow && follow.to === open ? follow.from : open
  const view = parameters.get('view')
  return (
    <main className="content">
      <PostList open={open} filter={parameters} change={change} />
      {open === null ? (
        <section className="pane writing-pane wide">
          <div className="quiet">
            <h1>Open a post, or write one</h1>
            <p>J and K go through the list, N begins a new one.</p>
          </div>
        </section>
      ) : (
        <OpenPost
          key={key}
          slug={open === NEW ? null : open}
          view={view === 'text' || view === 'page' ? view : 'both'}
          changeView={(next) => change({ view: next === 'both' ? null : next })}
          moved={(slug) => {
            setFollow({ from: key ?? NEW, to: slug })
            change({ post: slug })
          }}
          close={() => change({ post: null })}
        />
      )}
    </main>
  )
}
