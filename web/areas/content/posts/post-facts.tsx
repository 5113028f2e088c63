/** What is known of a post besides its text: address, publication, where it belongs, what listings show. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { App, Button, Input, Segmented, Select, Switch } from 'antd'
import { useState } from 'react'
import { call } from '../../../api/client.ts'
import { whyRefused } from '../../../shared/words/why-refused.ts'
import { asSentence } from '../../../shared/words/words.ts'
import { Appearances } from './appearances.tsx'
import { useJudgedSlug } from '../parts/slug-field.tsx'
import type { PostWork } from './use-post.ts'
import { wallTimeNote } from '../parts/wall-time-note.ts'
import { fromNow, timeInWords, wallTimeOf } from '../parts/wall-time.ts'

interface Props {
  work: PostWork
  /** What listings would show as the excerpt. */
  opening: string
  remove(): void
}

export function PostFacts({ work, opening, remove }: Props) {
  const { parts, stored, change, save } = work
  const { matter } = parts
  const names = useQuery({ queryKey: ['names'], queryFn: () => call('GET /api/names', {}) })
  const problem = (key: string) =>
    save.kind === 'refused' ? save.problems.find((one) => one.path === `/${key}`)?.message : undefined
  const choices = (list: readonly { slug: string; name: string; depth: number }[] | undefined) =>
    (list ?? []).map(({ slug, name, depth }) => ({ value: slug, label: `${'— '.repeat(depth)}${name}` }))
  return (
    <section className="pane post-facts" aria-label="This post">
      <header>
        <h1>This post</h1>
        <span className="grow" />
        {stored ? (
          // What was saved a moment ago is another version: it is deleted as it is, not as it was.
          <Button size="small" danger type="text" disabled={work.isAsking} onClick={remove}>
            Delete
          </Button>
        ) : null}
      </header>
      <div className="scroll">
        <div className="fields">
          <Address work={work} problem={problem('slug')} />
          <Publication work={work} zone={names.data?.timeZone ?? 'UTC'} problem={problem('published')} />
          <div className="two">
            <label>
              Category
              <Select
                allowClear
                placeholder="none"
                value={matter.category ?? null}
                options={choices(names.data?.categories)}
                onChange={(category: string | null) => change({ category: category ?? undefined })}
              />
              <Fault text={problem('category')} />
            </label>
            <label>
              Author
              <Select
                allowClear
                placeholder="none"
                value={matter.author ?? null}
                options={choices(names.data?.authors)}
                onChange={(author: string | null) => change({ author: author ?? undefined })}
              />
              <Fault text={problem('author')} />
            </label>
          </div>
          <label>
            Tags
            <TagChoice
              tags={matter.tags ?? []}
              known={names.data?.tags ?? []}
              change={(tags) => change({ tags: tags.length > 0 ? tags : undefined })}
            />
            <Fault text={problem('tags')} />
          </label>
        </div>
        {stored ? <Appearances slug={stored.slug} version={stored.version} /> : null}
        <h2 className="part">In listings, and below</h2>
        <div className="fields">
          <label>
            Excerpt
            <Input.TextArea
              autoSize={{ minRows: 2, maxRows: 5 }}
              placeholder={opening === '' ? 'the opening of the text' : opening}
              value={matter.excerpt ?? ''}
              maxLength={1000}
              onChange={(event) => change({ excerpt: event.target.value })}
            />
          </label>
          <label>
            Image
            <Select
              allowClear
              showSearch
              placeholder="none"
              value={matter.image ?? null}
              options={(names.data?.images ?? []).map(({ name }) => ({ value: name, label: name }))}
              onChange={(image: string | null) => change({ image: image ?? undefined })}
            />
            <Fault text={problem('image')} />
          </label>
          {matter.image === undefined ? null : (
            <label>
              What the image shows
              <Input
                value={matter['image-text'] ?? ''}
                maxLength={300}
                placeholder="for who cannot see it"
                onChange={(event) => change({ 'image-text': event.target.value })}
              />
            </label>
          )}
          <label className="row">
            <Switch
              size="small"
              checked={matter.comments !== 'closed'}
              onChange={(open) => change({ comments: open ? undefined : 'closed' })}
            />
            Comments are open
          </label>
        </div>
      </div>
    </section>
  )
}

/** Stands for a tag that is not there yet; no slug can be it. */
const MAKE = '(make)'

interface TagChoiceProps {
  tags: readonly string[]
  known: readonly { slug: string; name: string }[]
  change(tags: string[]): void
}

/** Tags by their names; one that is not there yet is made on the way. */
function TagChoice({ tags, known, change }: TagChoiceProps) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const [typed, setTyped] = useState('')
  const name = typed.trim()
  const isNew = name !== '' && !known.some((one) => one.name.toLowerCase() === name.toLowerCase())
  const make = async () => {
    try {
      const { slug } = await call('POST /api/terms', { body: { kind: 'tag', name } })
      await client.invalidateQueries({ queryKey: ['names'] })
      change([...tags, slug])
      void message.success(`The tag “${name}” is there`)
    } catch (error) {
      void message.error(whyRefused(error), 8)
    }
  }
  return (
    <Select
      mode="multiple"
      placeholder="none"
      aria-label="Tags"
      value={[...tags]}
      showSearch={{
        searchValue: typed,
        onSearch: setTyped,
        filterOption: (text, option) =>
          option?.value === MAKE || String(option?.label).toLowerCase().includes(text.trim().toLowerCase()),
      }}
      options={[
        ...known.map(({ slug, name: label }) => ({ value: slug, label })),
        ...(isNew ? [{ value: MAKE, label: `Make the tag “${name}”` }] : []),
      ]}
      onChange={(next: string[]) => {
        setTyped('')
        if (next.includes(MAKE)) void make()
        else change(next)
      }}
    />
  )
}

const Fault = ({ text }: { text: string | undefined }) =>
  text === undefined ? null : (
    <span className="failed" role="alert">
      {asSentence(text)}
    </span>
  )

function Address({ work, problem }: { work: PostWork; problem: string | undefined }) {
  const { parts, stored, change } = work
  const typed = parts.matter.slug ?? ''
  const title = parts.matter.title
  // Without a slug of its own, a new post gets one from its title.
  const fromTitle = typed === ''
  const answer = useJudgedSlug(
    'post',
    fromTitle ? title : typed,
    fromTitle ? 'title' : 'slug',
    stored?.slug ?? null,
  )
  const isOwn = stored?.slug === typed
  return (
    <label>
      Address
      <Input
        className="mono"
        aria-label="Slug"
        value={typed}
        placeholder={answer?.suggestion ?? 'made from the title'}
        status={problem !== undefined || (!fromTitle && answer?.free === false) ? 'error' : ''}
        onChange={(event) => change({ slug: event.target.value })}
      />
      <Fault text={problem} />
      <span className={answer?.free === false && !fromTitle ? 'failed' : 'muted'} role="status">
        {answer === undefined
          ? ''
          : fromTitle
            ? answer.suggestion === ''
              ? 'No slug can be made from this title; write one.'
              : `${answer.suggestion} is free.`
            : isOwn
              ? (answer.address ?? '')
              : asSentence(answer.note ?? `${answer.address ?? typed} is free`)}
        {!fromTitle && answer && !answer.free && answer.suggestion !== '' ? (
          <>
            {' '}
            <button type="button" className="link" onClick={() => change({ slug: answer.suggestion })}>
              take {answer.suggestion}
            </button>
          </>
        ) : null}
      </span>
      {stored && stored.former.length > 0 ? (
        <span className="muted">
          {stored.former.join(', ')} {stored.former.length === 1 ? 'leads' : 'lead'} here.
        </span>
      ) : null}
    </label>
  )
}

const WHEN = [
  { value: 'draft', label: 'Not yet' },
  { value: 'now', label: 'Now' },
  { value: 'time', label: 'On a day' },
]

function Publication({ work, zone, problem }: { work: PostWork; zone: string; problem: string | undefined }) {
  const { parts, change } = work
  const { published } = parts.matter
  const when = published === undefined ? 'draft' : published === 'now' ? 'now' : 'time'
  const isInstant = published !== undefined && /Z$|[+-]\d{2}:\d{2}$/.test(published)
  const wall =
    published === undefined || published === 'now' ? '' : isInstant ? wallTimeOf(published, zone) : published
  return (
    <div className="field">
      <span>Published</span>
      <Segmented
        block
        aria-label="Published"
        options={WHEN}
        value={when}
        onChange={(next) =>
          change({
            published:
              next === 'draft'
                ? undefined
                : next === 'now'
                  ? 'now'
                  : wallTimeOf(new Date(Date.now() + 86_400_000).toISOString(), zone).slice(0, 11) + '09:00',
          })
        }
      />
      {when === 'time' ? (
        <input
          type="datetime-local"
          aria-label="Day and time of publication"
          className="ant-input ant-input-outlined when"
          value={wall.slice(0, 16)}
          onChange={(event) => event.target.value !== '' && change({ published: event.target.value })}
        />
      ) : null}
      <Fault text={problem} />
      <span className="muted">
        {when === 'draft'
          ? 'Not published yet: only you see it.'
          : when === 'now'
            ? 'Readers see it as soon as it is saved.'
            : isInstant
              ? `${timeInWords(published, zone)} in ${zone}, ${fromNow(published, new Date())}.`
              : (wallTimeNote(wall, zone) ?? `By the clock of ${zone}.`)}
      </span>
    </div>
  )
}
