/** The list of comments of a state, with search and selection. */
import { Button, Checkbox, Select } from 'antd'
import { useState } from 'react'
import { ageInWords } from '../../../core/content/age.ts'
import type { CommentCounts, CommentItem } from '../../../contract/comments.ts'
import { useRead } from '../../api/queries.ts'
import { SearchField } from '../../shared/search/search-field.tsx'
import { Chip, type Tone } from '../../shared/marks/marks.tsx'
import { formatDateTime } from '../../shared/words/format.ts'
import { CommentMenu } from './comment-menu.tsx'
import { words } from './words.ts'

export type Filter = Partial<Record<'search' | 'post' | 'writer', string>>

export const STATES = ['waiting', 'shown', 'spam', 'deleted'] as const
export type State = keyof CommentCounts

interface Props {
  state: State
  filter: Filter
  /** Changes the address; null removes a parameter. */
  change(changes: Readonly<Record<string, string | null>>): void
  comments: readonly CommentItem[]
  counts: CommentCounts | undefined
  open: number | null
  selected: ReadonlySet<number>
  select(selected: ReadonlySet<number>): void
  isLoading: boolean
  error: string | null
  /** Shows more; undefined if all are shown, or as many as a list can have. */
  more: (() => void) | undefined
  isCut: boolean
}

export function CommentQueue(props: Props) {
  const { state, filter, change, comments, counts, open, selected, select, isLoading, error, more, isCut } =
    props
  const isFiltered = Object.values(filter).some((one) => one !== '')
  return (
    <section className="pane queue" aria-label={words.list}>
      <h1 className="unseen">{words.title}</h1>
      <nav className="tabs" aria-label={words.title}>
        {STATES.map((one) => (
          <button
            key={one}
            type="button"
            aria-current={one === state ? 'page' : undefined}
            onClick={() => change({ state: one === 'waiting' ? null : one, comment: null })}
          >
            {words.states[one]} {counts ? <b>{counts[one].toLocaleString('en-GB')}</b> : null}
          </button>
        ))}
        <span className="grow" />
        <CommentMenu change={change} />
      </nav>
      <div className="looking">
        <SearchField
          label={words.search}
          help={words.searchHelp}
          value={filter.search ?? ''}
          change={(search) => change({ search: search || null, comment: null })}
        />
        <PostChoice value={filter.post ?? null} change={(post) => change({ post, comment: null })} />
      </div>
      {filter.writer === undefined ? null : (
        <p className="narrowed">
          {words.ofWriter}{' '}
          <button type="button" className="link" onClick={() => change({ writer: null })}>
            {words.clear}
          </button>
        </p>
      )}
      <ul className="scroll">
        {comments.map((one) => (
          <li key={one.id} data-id={one.id} className={one.id === open ? 'on' : ''}>
            <Checkbox
              aria-label={words.select(one.name)}
              checked={selected.has(one.id)}
              onChange={(event) => {
                const next = new Set(selected)
                if (event.target.checked) next.add(one.id)
                else next.delete(one.id)
                select(next)
              }}
            />
            <button
              type="button"
              aria-current={one.id === open}
              onClick={() => change({ comment: String(one.id) })}
            >
              <span className="who">
                <b>
                  <bdi>{one.name}</bdi>
                </b>
                <time dateTime={one.at} title={formatDateTime(one.at)}>
                  {ageInWords(new Date(one.at), new Date())}
                </time>
              </span>
              <span className="said">{one.text}</span>
              <Marks comment={one} />
            </button>
          </li>
        ))}
        {error !== null ? (
          <li className="quiet small">{error}</li>
        ) : comments.length === 0 && !isLoading ? (
          <li className="quiet small">
            {isFiltered ? (
              <>
                {words.noMatch}{' '}
                <button
                  type="button"
                  className="link"
                  onClick={() => change({ search: null, post: null, writer: null })}
                >
                  {words.clear}
                </button>
              </>
            ) : (
              words.empty[state]
            )}
          </li>
        ) : null}
        {isCut ? <li className="quiet small">{words.cut(comments.length)}</li> : null}
        {more ? (
          <li className="more">
            <Button size="small" onClick={more}>
              {words.more}
            </Button>
          </li>
        ) : null}
      </ul>
      <footer>
        {selected.size > 0 ? (
          <>
            <b>{words.selected(selected.size)}</b>
            <span className="grow" />
            {selected.size < comments.length ? (
              <Button size="small" type="text" onClick={() => select(new Set(comments.map((one) => one.id)))}>
                {words.selectAll}
              </Button>
            ) : null}
            <Button size="small" type="text" onClick={() => select(new Set())}>
              {words.deselect}
            </Button>
          </>
        ) : (
          <>
            <span>{counts ? words.count(comments.length, counts[state]) : ''}</span>
            <span className="grow" />
            <span>{words.keys}</span>
          </>
        )}
      </footer>
    </section>
  )
}

/** At most three labels: what speaks most for or against it. */
function Marks({ comment }: { comment: CommentItem }) {
  const marks: { tone: Tone; text: string }[] = [
    ...(comment.byAuthor ? [{ tone: 'blue' as const, text: words.byAuthor }] : []),
    ...(comment.isHidden ? [{ tone: 'look' as const, text: words.hidden }] : []),
    ...comment.reasons
      .filter((one) => one.code !== 'score')
      .map((one) => ({
        tone:
          one.code === 'unknown-writer' || one.code === 'after-approval'
            ? ('plain' as const)
            : ('look' as const),
        text: words.mark(one),
      })),
    ...(comment.score === null
      ? []
      : [
          {
            tone: comment.score < 0.5 ? ('fine' as const) : ('fail' as const),
            text: words.scored(comment.score),
          },
        ]),
    ...(comment.shownBefore > 0
      ? [{ tone: 'fine' as const, text: words.shownBefore(comment.shownBefore) }]
      : []),
  ]
  return marks.length === 0 ? null : (
    <span className="marks">
      {marks.map(({ tone, text }) => (
        <Chip key={text} tone={tone}>
          {text}
        </Chip>
      ))}
    </span>
  )
}

/** Chooses a post by a part of its title. */
function PostChoice({ value, change }: { value: string | null; change(slug: string | null): void }) {
  const [search, setSearch] = useState('')
  const { data } = useRead(
    'GET /api/posts',
    { query: { size: '25', ...(search === '' ? {} : { search }) } },
    { placeholderData: (known) => known },
  )
  const options = (data?.posts ?? []).map(({ slug, title }) => ({ value: slug, label: title }))
  if (value !== null && !options.some((one) => one.value === value)) options.unshift({ value, label: value })
  return (
    <Select
      size="small"
      aria-label={words.post}
      placeholder={words.anyPost}
      value={value}
      options={options}
      showSearch={{ filterOption: false, onSearch: setSearch }}
      allowClear
      popupMatchSelectWidth={320}
      onChange={(slug: string | undefined) => change(slug ?? null)}
    />
  )
}
