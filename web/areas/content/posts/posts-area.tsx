/** Posts: found in the list, the open one beside it. */
import { useState } from 'react'
import { useAddressState } from '../parts/address-state.ts'
import { NEW } from '../parts/new-name.ts'
import { PostList } from './post-list.tsx'
import { OpenPost } from './post-work.tsx'
import './posts.css'

export function PostsArea() {
  const [parameters, change] = useAddressState()
  const open = parameters.get('post')
  // A post that gets another slug by a save stays open as it is: its editor keeps the cursor.
  const [follow, setFollow] = useState<{ from: string; to: string } | null>(null)
  const key = follow && follow.to === open ? follow.from : open
  const view = parameters.get('view')
  return (
    <>
      <PostList open={open} filter={parameters} change={change} />
      {open === null ? (
        <section className="pane writing-pane wide">
          <div className="quiet">
            <h1>Open a post, or write one</h1>
            <p>J and K go through the list, W walks the open one, N begins a new one.</p>
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
    </>
  )
}
