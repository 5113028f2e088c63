/** The posts: the list, and the open post beside it. */
import { useAddressState } from '../parts/address-state.ts'
import { isNew } from '../parts/new-name.ts'
import { useOpenKey } from '../parts/use-open-key.ts'
import { words } from '../words.ts'
import { OpenPost } from './post-work.tsx'
import { PostList } from './post-list.tsx'
import './posts.css'

const text = words.posts.help

export function PostsArea() {
  const [parameters, change] = useAddressState()
  const open = parameters.get('post')
  const { key, renamed } = useOpenKey(open)
  const view = parameters.get('view')
  return (
    <>
      <PostList open={open} filter={parameters} change={change} />
      {open === null ? (
        <section className="pane writing-pane wide">
          <div className="quiet">
            <h1>{text.title}</h1>
            <p>{text.text}</p>
          </div>
        </section>
      ) : (
        <OpenPost
          key={key}
          slug={isNew(open) ? null : open}
          view={view === 'text' || view === 'page' ? view : 'both'}
          changeView={(next) => change({ view: next === 'both' ? null : next })}
          onRenamed={(slug) => {
            renamed(slug)
            change({ post: slug }, true)
          }}
          close={() => change({ post: null })}
        />
      )}
    </>
  )
}
