/** The list of posts: search, filters, and actions on several posts. */
import { Button, Checkbox, Select } from 'antd'
import { useRef, useState } from 'react'
import type { BodyOf } from '../../../../contract/operations.ts'
import type { PostList as Listing, PostSummary } from '../../../../contract/posts.ts'
import { useRead, useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { focusLater } from '../../../shared/focus/focus.ts'
import { SearchField } from '../../../shared/search/search-field.tsx'
import { Chip } from '../../../shared/marks/marks.tsx'
import { formatDate, formatDateTime } from '../../../shared/words/format.ts'
import { words as shared } from '../../../shared/words/words.ts'
import type { Changes } from '../parts/address-state.ts'
import { ContentTabs } from '../parts/content-tabs.tsx'
import { isNew, newName } from '../parts/new-name.ts'
import { PostFiles } from './post-files.tsx'
import { useListKeys } from '../parts/use-list-keys.ts'
import { fromNow } from '../parts/wall-time.ts'
import { words } from '../words.ts'
import { useDeletePosts } from './use-delete-posts.ts'

const text = words.posts

const SIZE = 25
const NONE: readonly PostSummary[] = []
/** The maximum length of a title in the list, in characters: common practice. */
const TITLE_LIMIT = 60

const STATES = [
  { value: '', label: text.states.all },
  { value: 'draft', label: text.states.draft },
  { value: 'scheduled', label: text.states.scheduled },
  { value: 'published', label: text.states.published },
]
const SORTS = [
  { value: '', label: text.sorts.latest },
  { value: 'published', label: text.sorts.oldest },
  { value: '-updated', label: text.sorts.edited },
  { value: 'title', label: text.sorts.title },
]

interface Props {
  open: string | null
  filter: URLSearchParams
  /** null removes a parameter of the address. */
  change(changes: Changes): void
}

export function PostList({ open, filter, change }: Props) {
  const wanted = (name: string) => filter.get(name) ?? ''
  const page = Math.max(1, Number(wanted('page')) || 1)
  const query = Object.fromEntries(
    (['search', 'state', 'category', 'author', 'tag', 'sort'] as const).flatMap((name) =>
      wanted(name) === '' ? [] : [[name, wanted(name)]],
    ),
  )
  const list = useRead(
    'GET /api/posts',
    { query: { ...query, page: String(page), size: String(SIZE) } },
    { placeholderData: (known) => known },
  )
  const names = useRead('GET /api/names', {})
  const pane = useRef<HTMLElement>(null)
  const [selected, setSelected] = useState<ReadonlyMap<string, PostSummary>>(new Map())
  const posts = list.data?.posts ?? NONE
  const total = list.data?.total ?? 0
  const zone = names.data?.timeZone ?? 'UTC'
  const opened = useRead(
    'GET /api/post',
    { query: { slug: open ?? '' } },
    { enabled: open !== null && !isNew(open) },
  )
  useListKeys({
    names: posts.map((one) => one.slug),
    open,
    choose: (slug) => change({ post: slug }),
    create: () => change({ post: newName() }),
    address: open === null ? null : (opened.data?.address ?? null),
  })

  const isFiltered = Object.keys(query).some((name) => name !== 'sort')
  return (
    <section ref={pane} className="pane post-list" aria-label={text.title}>
      <ContentTabs />
      <div className="filters">
        <div className="looking">
          <SearchField
            label={text.search}
            value={wanted('search')}
            change={(search) => change({ search: search || null, page: null })}
          />
          <PostFiles />
          <Button
            type="primary"
            size="small"
            onClick={() => change({ post: newName() })}
            aria-keyshortcuts="n"
          >
            {words.write}
          </Button>
        </div>
        <Select
          size="small"
          aria-label={text.state}
          value={wanted('state')}
          options={STATES.map((one) => ({
            ...one,
            label: counted(one, list.data?.states),
          }))}
          onChange={(state) => change({ state: state || null, page: null })}
        />
        <Select
          size="small"
          aria-label={text.category}
          value={wanted('category')}
          options={[
            { value: '', label: text.anyCategory },
            ...(names.data?.categories ?? []).map(({ slug, name }) => ({ value: slug, label: name })),
          ]}
          onChange={(category) => change({ category: category || null, page: null })}
        />
        <Select
          size="small"
          aria-label={text.order}
          value={wanted('sort')}
          options={SORTS}
          onChange={(sort) => change({ sort: sort || null, page: null })}
        />
        {(['author', 'tag'] as const).map((name) =>
          wanted(name) === '' ? null : (
            <span key={name} className="narrowed">
              {name}:{' '}
              {names.data?.[`${name}s`].find((one) => one.slug === wanted(name))?.name ?? wanted(name)}{' '}
              <button
                type="button"
                className="link"
                aria-label={text.clearFilter(name)}
                onClick={() => change({ [name]: null, page: null })}
              >
                {text.any}
              </button>
            </span>
          ),
        )}
      </div>
      <ul className="scroll rows">
        {posts.map((one) => (
          <li key={one.slug} data-id={one.slug} className={one.slug === open ? 'on' : ''}>
            <Checkbox
              aria-label={text.select(one.title)}
              checked={selected.has(one.slug)}
              onChange={(event) => {
                const next = new Map(selected)
                if (event.target.checked) next.set(one.slug, one)
                else next.delete(one.slug)
                setSelected(next)
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
                {text.noMatch}{' '}
                <button
                  type="button"
                  className="link"
                  onClick={() => {
                    change({ search: null, state: null, category: null, author: null, tag: null, page: null })
                    focusLater(() => pane.current?.querySelector<HTMLElement>('input[type=search]'))
                  }}
                >
                  {text.clearFilters}
                </button>
              </>
            ) : (
              text.empty
            )}
          </li>
        ) : null}
      </ul>
      {selected.size > 0 ? (
        <Selected
          posts={[...selected.values()]}
          clear={() => {
            setSelected(new Map())
            focusLater(() => pane.current?.querySelector<HTMLElement>('.rows input'))
          }}
        />
      ) : (
        <footer>
          <span>
            {total === 0
              ? words.none
              : text.range(
                  (page - 1) * SIZE + 1,
                  Math.min(page * SIZE, total),
                  total,
                  list.data?.isMore ?? false,
                )}
          </span>
          <span className="grow" />
          <Button
            size="small"
            disabled={page === 1}
            onClick={() => change({ page: page === 2 ? null : String(page - 1) })}
          >
            {text.previous}
          </Button>
          <Button
            size="small"
            disabled={list.data?.isMore ? posts.length < SIZE : page * SIZE >= total}
            onClick={() => change({ page: String(page + 1) })}
          >
            {text.next}
          </Button>
        </footer>
      )}
    </section>
  )
}

/** Returns e.g. `Drafts · 4`. */
function counted({ value, label }: { value: string; label: string }, states: Listing['states'] | undefined) {
  const count = states?.[value as keyof typeof states]
  return count === undefined ? label : `${label} · ${count.toLocaleString('en-GB')}`
}

function shortTitle(title: string): string {
  if (title.length <= TITLE_LIMIT) return title
  const cut = title.slice(0, TITLE_LIMIT + 1).replace(/\s+\S*$/, '')
  return `${cut.length > TITLE_LIMIT ? cut.slice(0, TITLE_LIMIT) : cut}…`
}

function StateChip({ post, zone }: { post: PostSummary; zone: string }) {
  if (post.state === 'published') return <Chip tone="fine">{text.stateOf.published}</Chip>
  if (post.state === 'draft' || post.publishedAt === null) return <Chip>{text.stateOf.draft}</Chip>
  return (
    <Chip tone="blue" title={text.scheduledFor(formatDateTime(post.publishedAt, zone))}>
      {text.stateOf.scheduled}
    </Chip>
  )
}

function factsOf(post: PostSummary, zone: string): string {
  const now = new Date()
  const when =
    post.publishedAt === null
      ? text.edited(fromNow(post.updatedAt, now))
      : post.state === 'scheduled'
        ? formatDateTime(post.publishedAt, zone)
        : formatDate(post.publishedAt, zone)
  return [
    post.category?.name ?? text.noCategory,
    post.author?.name ?? text.noAuthor,
    when,
    ...(post.comments > 0 ? [text.comments(post.comments)] : []),
    ...(post.image === null ? [text.noImage] : []),
  ].join(' · ')
}

type Change = BodyOf<'POST /api/posts/change'>['change']

/** Actions on the selected posts. */
function Selected({ posts, clear }: { posts: readonly PostSummary[]; clear(): void }) {
  const write = useWrite()
  const notices = useNotices()
  const deletePosts = useDeletePosts()
  const names = useRead('GET /api/names', {})
  const refs = posts.map(({ slug, version }) => ({ slug, version }))
  const apply = async (change: Change, done: (count: number) => string) => {
    try {
      const { results, purged } = await write('POST /api/posts/change', { body: { posts: refs, change } })
      notices.done(done(results.length), undefined, { purged })
      clear()
    } catch (error) {
      notices.failed(error)
    }
  }
  return (
    <footer className="several">
      <b>{text.count(posts.length)}</b>
      <Button size="small" onClick={() => void apply({ published: 'now' }, text.wasPublished)}>
        {text.publish}
      </Button>
      <Button size="small" onClick={() => void apply({ published: null }, text.wasUnpublished)}>
        {text.unpublish}
      </Button>
      <Select
        size="small"
        aria-label={text.setCategory}
        placeholder={text.category}
        value={null}
        options={(names.data?.categories ?? []).map(({ slug, name }) => ({ value: slug, label: name }))}
        onChange={(category: string | null) =>
          category === null ? undefined : void apply({ category }, text.categorySet)
        }
      />
      <Button size="small" danger onClick={() => void deletePosts(refs).then((done) => done && clear())}>
        {shared.delete}
      </Button>
      <span className="grow" />
      <Button size="small" type="text" onClick={clear}>
        {text.deselect}
      </Button>
    </footer>
  )
}
