/** Posts as an author looks for them: search, states, several at once. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { App, Button, Checkbox, Input, Select } from 'antd'
import { useEffect, useRef, useState } from 'react'
import type {
  BodyOf,
  PostList as Listing,
  PostOutcomes,
  PostSummary,
} from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { Chip } from '../../../shared/marks/marks.tsx'
import { whyRefused } from '../../../shared/words/why-refused.ts'
import { plural } from '../../../shared/words/words.ts'
import { useDeletionNotice } from '../parts/deleted.tsx'
import type { Changes } from '../parts/address-state.ts'
import { ContentTabs } from '../parts/content-tabs.tsx'
import { NEW } from '../parts/new-name.ts'
import { PostFiles } from './post-files.tsx'
import { refreshContent } from '../parts/refresh.ts'
import { useListKeys } from '../parts/use-list-keys.ts'
import { dayInWords, fromNow, timeInWords } from '../parts/wall-time.ts'

const SIZE = 25
const NONE: readonly PostSummary[] = []
/** Titles are cut at a whole word after this many characters: common practice. */
const TITLE = 60

const STATES = [
  { value: '', label: 'Any state' },
  { value: 'draft', label: 'Drafts' },
  { value: 'scheduled', label: 'Scheduled' },
  { value: 'published', label: 'Published' },
]
const SORTS = [
  { value: '', label: 'Newest first' },
  { value: 'published', label: 'Oldest first' },
  { value: '-updated', label: 'Last edited first' },
  { value: 'title', label: 'By title' },
]

interface Props {
  open: string | null
  filter: URLSearchParams
  /** Null takes a part of the address away. */
  change(changes: Changes): void
}

export function PostList({ open, filter, change }: Props) {
  const asked = (name: string) => filter.get(name) ?? ''
  const page = Math.max(1, Number(asked('page')) || 1)
  const query = Object.fromEntries(
    (['search', 'state', 'category', 'author', 'tag', 'sort'] as const).flatMap((name) =>
      asked(name) === '' ? [] : [[name, asked(name)]],
    ),
  )
  const list = useQuery({
    queryKey: ['posts', query, page],
    queryFn: () => call('GET /api/posts', { query: { ...query, page: String(page), size: String(SIZE) } }),
    placeholderData: (known) => known,
  })
  const names = useQuery({ queryKey: ['names'], queryFn: () => call('GET /api/names', {}) })
  const [chosen, setChosen] = useState<ReadonlyMap<string, PostSummary>>(new Map())
  const posts = list.data?.posts ?? NONE
  const total = list.data?.total ?? 0
  const zone = names.data?.timeZone ?? 'UTC'
  const opened = useQuery({
    queryKey: ['post', open],
    queryFn: () => call('GET /api/post', { query: { slug: open ?? '' } }),
    enabled: open !== null && open !== NEW,
  })
  useListKeys({
    names: posts.map((one) => one.slug),
    open,
    choose: (slug) => change({ post: slug }),
    begin: () => change({ post: NEW }),
    address: open === null ? null : (opened.data?.address ?? null),
  })

  const isFiltered = Object.keys(query).some((name) => name !== 'sort')
  return (
    <section className="pane post-list" aria-label="Posts">
      <ContentTabs />
      <div className="filters">
        <div className="looking">
          <Search
            value={asked('search')}
            change={(search) => change({ search: search || null, page: null })}
          />
          <PostFiles />
          <Button type="primary" size="small" onClick={() => change({ post: NEW })} aria-keyshortcuts="n">
            Write
          </Button>
        </div>
        <Select
          size="small"
          aria-label="State"
          value={asked('state')}
          options={STATES.map((one) => ({
            ...one,
            label: counted(one, list.data?.states),
          }))}
          onChange={(state) => change({ state: state || null, page: null })}
        />
        <Select
          size="small"
          aria-label="Category"
          value={asked('category')}
          options={[
            { value: '', label: 'Any category' },
            ...(names.data?.categories ?? []).map(({ slug, name }) => ({ value: slug, label: name })),
          ]}
          onChange={(category) => change({ category: category || null, page: null })}
        />
        <Select
          size="small"
          aria-label="Order"
          value={asked('sort')}
          options={SORTS}
          onChange={(sort) => change({ sort: sort || null, page: null })}
        />
        {(['author', 'tag'] as const).map((name) =>
          asked(name) === '' ? null : (
            <span key={name} className="narrowed">
              {name}: {names.data?.[`${name}s`].find((one) => one.slug === asked(name))?.name ?? asked(name)}{' '}
              <button
                type="button"
                className="link"
                aria-label={`Posts of any ${name}`}
                onClick={() => change({ [name]: null, page: null })}
              >
                any
              </button>
            </span>
          ),
        )}
      </div>
      <ul className="scroll rows">
        {posts.map((one) => (
          <li key={one.slug} data-id={one.slug} className={one.slug === open ? 'on' : ''}>
            <Checkbox
              aria-label={`Choose “${one.title}”`}
              checked={chosen.has(one.slug)}
              onChange={(event) => {
                const next = new Map(chosen)
                if (event.target.checked) next.set(one.slug, one)
                else next.delete(one.slug)
                setChosen(next)
              }}
            />
            <button type="button" aria-current={one.slug === open} onClick={() => change({ post: one.slug })}>
              <b title={one.title}>{shortTitle(one.title)}</b>
              <StateChip post={one} zone={zone} />
              <span className="muted">{factsOf(one, zone)}</span>
            </button>
          </li>
        ))}
        {list.error ? (
          <li className="quiet small">{list.error.message}</li>
        ) : posts.length === 0 && list.data ? (
          <li className="quiet small">
            {isFiltered ? (
              <>
                No post is like this.{' '}
                <button
                  type="button"
                  className="link"
                  onClick={() =>
                    change({ search: null, state: null, category: null, author: null, tag: null, page: null })
                  }
                >
                  Show all
                </button>
              </>
            ) : (
              'There is no post yet. “Write” begins the first one.'
            )}
          </li>
        ) : null}
      </ul>
      {chosen.size > 0 ? (
        <Several posts={[...chosen.values()]} clear={() => setChosen(new Map())} />
      ) : (
        <footer>
          <span>
            {total === 0
              ? 'none'
              : `${(page - 1) * SIZE + 1} to ${Math.min(page * SIZE, total)} of ${list.data?.isMore ? 'more than ' : ''}${total.toLocaleString('en-GB')}`}
          </span>
          <span className="grow" />
          <Button
            size="small"
            disabled={page === 1}
            onClick={() => change({ page: page === 2 ? null : String(page - 1) })}
          >
            Before
          </Button>
          <Button
            size="small"
            disabled={list.data?.isMore ? posts.length < SIZE : page * SIZE >= total}
            onClick={() => change({ page: String(page + 1) })}
          >
            After
          </Button>
        </footer>
      )}
    </section>
  )
}

/** `Drafts · 4`. */
function counted({ value, label }: { value: string; label: string }, states: Listing['states'] | undefined) {
  const count = states?.[value as keyof typeof states]
  return count === undefined ? label : `${label} · ${count.toLocaleString('en-GB')}`
}

/** Typed words are looked for when the typing pauses. */
function Search({ value, change }: { value: string; change(value: string): void }) {
  const [typed, setTyped] = useState(value)
  const tell = useRef(change)
  useEffect(() => {
    tell.current = change
  })
  useEffect(() => {
    if (typed === value) return
    const timer = setTimeout(() => tell.current(typed), 200)
    return () => clearTimeout(timer)
  }, [typed, value])
  return (
    <Input
      size="small"
      type="search"
      aria-label="Search titles and text"
      placeholder="Search titles and text"
      value={typed}
      allowClear
      onChange={(event) => setTyped(event.target.value)}
    />
  )
}

function shortTitle(title: string): string {
  if (title.length <= TITLE) return title
  const cut = title.slice(0, TITLE + 1).replace(/\s+\S*$/, '')
  return `${cut.length > TITLE ? cut.slice(0, TITLE) : cut}…`
}

function StateChip({ post, zone }: { post: PostSummary; zone: string }) {
  if (post.state === 'published') return <Chip tone="fine">published</Chip>
  if (post.state === 'draft' || post.publishedAt === null) return <Chip>draft</Chip>
  return (
    <Chip tone="blue" title={`scheduled for ${timeInWords(post.publishedAt, zone)}`}>
      {timeInWords(post.publishedAt, zone).replace(/ \d{4}/, '')}
    </Chip>
  )
}

function factsOf(post: PostSummary, zone: string): string {
  const now = new Date()
  const when =
    post.publishedAt === null
      ? `edited ${fromNow(post.updatedAt, now)}`
      : post.state === 'scheduled'
        ? `scheduled, ${fromNow(post.publishedAt, now)}`
        : dayInWords(post.publishedAt, zone, now)
  return [
    post.category?.name ?? 'no category',
    post.author?.name ?? 'no author',
    when,
    ...(post.comments > 0 ? [plural(post.comments, 'comment')] : []),
    ...(post.image === null ? ['no image'] : []),
  ].join(' · ')
}

type Change = BodyOf<'POST /api/posts/change'>['change']

/** What can be done with the posts that are ticked. */
function Several({ posts, clear }: { posts: readonly PostSummary[]; clear(): void }) {
  const { message } = App.useApp()
  const client = useQueryClient()
  const deletePosts = useDeletePosts()
  const names = useQuery({ queryKey: ['names'], queryFn: () => call('GET /api/names', {}) })
  const refs = posts.map(({ slug, version }) => ({ slug, version }))
  const apply = async (change: Change, done: string) => {
    try {
      const { results } = await call('POST /api/posts/change', { body: { posts: refs, change } })
      await refreshContent(client)
      const refused = refusals(results)
      if (refused === null) void message.success(`${plural(results.length, 'post')} ${done}`)
      else void message.warning(refused, 10)
      clear()
    } catch (error) {
      void message.error(whyRefused(error), 8)
    }
  }
  return (
    <footer className="several">
      <b>{plural(posts.length, 'post')}</b>
      <Button size="small" onClick={() => void apply({ published: 'now' }, 'published')}>
        Publish now
      </Button>
      <Button size="small" onClick={() => void apply({ published: null }, 'made drafts')}>
        Make drafts
      </Button>
      <Select
        size="small"
        aria-label="Category for all of them"
        placeholder="Category"
        value={null}
        options={(names.data?.categories ?? []).map(({ slug, name }) => ({ value: slug, label: name }))}
        onChange={(category: string | null) =>
          category === null ? undefined : void apply({ category }, 'moved there')
        }
      />
      <Button size="small" danger onClick={() => void deletePosts(refs).then((done) => done && clear())}>
        Delete
      </Button>
      <span className="grow" />
      <Button size="small" type="text" onClick={clear}>
        None
      </Button>
    </footer>
  )
}

function refusals(results: PostOutcomes['results']): string | null {
  const refused = results.filter((one) => !one.done)
  if (refused.length === 0) return null
  return `${plural(refused.length, 'post')} of ${results.length} not changed: ${refused
    .map((one) => `“${one.slug}”, ${one.message ?? ''}`)
    .join('; ')}`
}

/** Deletes posts, and offers to put them back. @returns whether any is gone */
export function useDeletePosts() {
  const { message } = App.useApp()
  const client = useQueryClient()
  const tell = useDeletionNotice()
  return async (posts: readonly { slug: string; version: number }[]): Promise<boolean> => {
    try {
      const { results } = await call('POST /api/posts/delete', { body: { posts: [...posts] } })
      await refreshContent(client)
      const gone = results.flatMap((one) => (one.deleted === null ? [] : [one.deleted]))
      const refused = refusals(results)
      if (refused !== null) void message.warning(refused, 10)
      if (gone.length > 0)
        tell(
          `${plural(gone.length, 'post')} deleted, with ${gone.length === 1 ? 'its' : 'their'} comments`,
          gone,
        )
      return gone.length > 0
    } catch (error) {
      void message.error(whyRefused(error), 8)
      return false
    }
  }
}
