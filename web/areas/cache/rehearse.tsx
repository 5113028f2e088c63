/** Rehearses a change: which copies it would refresh, and what readers would go on seeing. */
import { Button, DatePicker, Input, Select } from 'antd'
import dayjs from 'dayjs'
import { useState } from 'react'
import { Link } from 'react-router'
import { withFragmentRule, withPageRule } from '../../../core/caching/edit-rules.ts'
import type { CopyRehearsal, RehearsedChange, StaleCopy } from '../../../contract/cache.ts'
import { call } from '../../api/client.ts'
import { useRead } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { Diff } from '../../shared/editor/diff.tsx'
import { lineChanges } from '../../shared/editor/line-changes.ts'
import { formatSpan } from '../../shared/words/format.ts'
import { useRule } from './use-rule.ts'
import { words } from './words.ts'

const text = words.rehearse
type Kind = RehearsedChange['kind']
const KINDS = Object.keys(text.kinds) as Kind[]
const OF_POST: ReadonlySet<Kind> = new Set(['title', 'slug', 'publish', 'unpublish', 'category', 'comment'])
const WITH_VALUE: ReadonlySet<Kind> = new Set(['title', 'slug', 'rename', 'setting'])
/** How many addresses are named. */
const NAMED = 3
const DAY = 86_400_000

interface Choice {
  kind: Kind
  post: string | undefined
  category: string | undefined
  page: string | undefined
  template: string | undefined
  to: string
  until: number
}

const firstChoice = (): Choice => ({
  kind: 'title',
  post: undefined,
  category: undefined,
  page: undefined,
  template: undefined,
  to: '',
  until: Date.now() + 7 * DAY,
})

/** Returns the change that was chosen; undefined while something is missing. */
function changeOf({ kind, post, category, page, template, to, until }: Choice): RehearsedChange | undefined {
  const value = to === '' ? {} : { to }
  switch (kind) {
    case 'title':
    case 'slug':
      return post === undefined ? undefined : { kind, post, ...value }
    case 'publish':
    case 'unpublish':
    case 'comment':
      return post === undefined ? undefined : { kind, post }
    case 'category':
      return post === undefined || category === undefined ? undefined : { kind, post, category }
    case 'rename':
      return category === undefined ? undefined : { kind, category, ...value }
    case 'move-page':
      return page === undefined ? undefined : { kind, page }
    case 'template':
      return template === undefined ? undefined : { kind, template }
    case 'time':
      return { kind, until: new Date(until).toISOString() }
    case 'setting':
      return { kind, ...value }
  }
}

export function Rehearse() {
  const notices = useNotices()
  const [choice, setChoice] = useState<Choice>(firstChoice)
  const [search, setSearch] = useState('')
  const [result, setResult] = useState<CopyRehearsal | null>(null)
  const [isRunning, setRunning] = useState(false)
  const { kind } = choice
  const posts = useRead('GET /api/posts', {
    query: {
      size: '50',
      ...(search === '' ? {} : { search }),
      state: kind === 'publish' ? 'draft' : 'published',
    },
  })
  const categories = useRead('GET /api/terms', { query: { kind: 'category' } })
  const documents = useRead('GET /api/documents', {})
  const pages = useRead('GET /api/pages', {})
  const found = posts.data?.posts ?? []
  const [firstPost] = found
  const [firstCategory] = categories.data ?? []
  const chosen: Choice = {
    ...choice,
    post: choice.post ?? firstPost?.slug,
    category: choice.category ?? firstCategory?.slug,
    page: choice.page ?? pages.data?.[0]?.path,
    template: choice.template ?? documents.data?.find((one) => one.kind === 'template')?.path,
  }
  const change = changeOf(chosen)
  const set = (changes: Partial<Choice>) => {
    setChoice({ ...choice, ...changes })
    setResult(null)
  }
  const run = async () => {
    if (!change) return
    setRunning(true)
    try {
      setResult(await call('POST /api/cache/rehearse', { body: { change } }))
    } catch (error) {
      notices.failed(error)
    } finally {
      setRunning(false)
    }
  }
  return (
    <section className="pane" aria-label={text.title}>
      <header>
        <h1>{text.title}</h1>
        <span className="muted">{text.nothingSaved}</span>
      </header>
      <div className="scroll rehearse">
        <form
          onSubmit={(event) => {
            event.preventDefault()
            void run()
          }}
        >
          <Select
            aria-label={text.if}
            value={kind}
            onChange={(one: Kind) => set({ kind: one, post: undefined, to: '' })}
            options={KINDS.map((value) => ({ value, label: `${text.if} ${text.kinds[value]}` }))}
          />
          {OF_POST.has(kind) ? (
            <Select
              aria-label={text.post}
              showSearch={{ filterOption: false, onSearch: setSearch }}
              value={chosen.post ?? null}
              onChange={(post: string) => set({ post })}
              options={found.map((one) => ({ value: one.slug, label: one.title }))}
            />
          ) : null}
          {kind === 'category' || kind === 'rename' ? (
            <Select
              aria-label={text.category}
              value={chosen.category ?? null}
              onChange={(category: string) => set({ category })}
              options={(categories.data ?? []).map((one) => ({ value: one.slug, label: one.name }))}
            />
          ) : null}
          {kind === 'move-page' ? (
            <Select
              aria-label={text.page}
              value={chosen.page ?? null}
              onChange={(page: string) => set({ page })}
              options={(pages.data ?? []).map((one) => ({ value: one.path, label: one.title }))}
            />
          ) : null}
          {kind === 'template' ? (
            <Select
              aria-label={text.template}
              showSearch
              value={chosen.template ?? null}
              onChange={(template: string) => set({ template })}
              options={(documents.data ?? [])
                .filter((one) => one.kind === 'template')
                .map((one) => ({ value: one.path, label: one.path.replace(/^templates\//, '') }))}
            />
          ) : null}
          {kind === 'time' ? (
            <DatePicker
              aria-label={text.until}
              showTime={{ format: 'HH:mm' }}
              format="D MMM YYYY, HH:mm"
              allowClear={false}
              value={dayjs(choice.until)}
              onChange={(one) => set({ until: one?.valueOf() ?? choice.until })}
            />
          ) : null}
          {WITH_VALUE.has(kind) ? (
            <Input
              aria-label={text.to}
              placeholder={text.toPlaceholder}
              maxLength={200}
              value={choice.to}
              onChange={(event) => set({ to: event.target.value })}
            />
          ) : null}
          <Button type="primary" htmlType="submit" loading={isRunning} disabled={!change}>
            {text.run}
          </Button>
        </form>
        <div aria-live="polite">
          {result ? <Result result={result} /> : <p className="quiet small">{text.help}</p>}
        </div>
      </div>
    </section>
  )
}

function Result({ result }: { result: CopyRehearsal }) {
  const { refreshed, kept, keptButDifferent, stale, statuses, what, rendered, addresses } = result
  const same = refreshed.filter((one) => one.isSame).length
  return (
    <>
      <p className="what">{what}</p>
      <dl className="figures">
        <Figure value={refreshed.length} what={text.refreshed(refreshed.length)} />
        <Figure value={kept} what={text.kept} />
        <Figure value={stale.length} what={text.stale} isBad={stale.length > 0} />
      </dl>
      {stale.map((one) => (
        <Stale key={`${one.kind} ${one.name} ${one.address}`} copy={one} />
      ))}
      {keptButDifferent.length > 0 ? (
        <p className="failed">
          {text.faults(keptButDifferent.length)}{' '}
          {keptButDifferent.map((one) => one.address ?? one.name).join(', ')}
        </p>
      ) : null}
      {statuses.length > 0 ? (
        <>
          <h2>{text.statuses}</h2>
          <ul className="copies-list">
            {statuses.map(({ address, before, after }) => (
              <li key={address}>
                <Link to={`/walk${address}`}>{address}</Link>
                <span className="muted">{text.status(before, after)}</span>
              </li>
            ))}
          </ul>
        </>
      ) : null}
      {refreshed.length > 0 ? (
        <>
          <h2>{text.list}</h2>
          <ul className="copies-list">
            {refreshed.map(({ kind, name, address, why, isSame }, index) => (
              <li key={index}>
                {address === null ? (
                  <span>
                    <b>{name}</b>
                  </span>
                ) : (
                  <Link to={`/walk${address}`}>{address}</Link>
                )}
                <span className="muted">
                  {isSame ? text.same : kind === 'fragment' ? words.kinds.fragment : why}
                </span>
              </li>
            ))}
          </ul>
        </>
      ) : null}
      <p className="muted small">
        {text.rendered(rendered, addresses)} {keptButDifferent.length === 0 ? text.verified : null}{' '}
        {same > 0 ? text.asBefore(same) : null}
      </p>
    </>
  )
}

function Figure({ value, what, isBad = false }: { value: number; what: string; isBad?: boolean }) {
  return (
    <div className={isBad ? 'bad' : ''}>
      <dd>{value.toLocaleString('en-GB')}</dd>
      <dt>{what}</dt>
    </div>
  )
}

function Stale({ copy }: { copy: StaleCopy }) {
  const { kind, name, longestMilliseconds, before, after, addresses } = copy
  const change = useRule()
  const refresh = () =>
    change(
      (document) =>
        kind === 'page' ? withPageRule(document, name, undefined) : withFragmentRule(document, name, 'both'),
      text.saved(name),
    )
  return (
    <article className="stale">
      <p>
        <b>{name}</b> {text.longest(formatSpan(longestMilliseconds))}{' '}
        {text.at(addresses.slice(0, NAMED), Math.max(0, addresses.length - NAMED))}
      </p>
      <Diff changes={lineChanges(before, after)} />
      <p>
        <Button size="small" type="primary" onClick={() => void refresh()}>
          {text.refreshOnChange}
        </Button>{' '}
        {addresses[0] === undefined ? null : <Link to={`/walk${addresses[0]}`}>{words.copies.walk}</Link>}
      </p>
    </article>
  )
}
