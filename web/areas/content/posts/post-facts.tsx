/** The facts of a post: address, publication, category, author, tags, and what listings show. */
import { Button, Input, Segmented, Select, Switch } from 'antd'
import type { AnswerOf } from '../../../../contract/operations.ts'
import { useRead } from '../../../api/queries.ts'
import { formatDateTime } from '../../../shared/words/format.ts'
import { words as shared } from '../../../shared/words/words.ts'
import { DateTimePicker } from '../parts/date-time-picker.tsx'
import { useCheckedSlug } from '../parts/slug-field.tsx'
import { wallTimeNote } from '../parts/wall-time-note.ts'
import { fromNow, wallTimeOf } from '../parts/wall-time.ts'
import { words } from '../words.ts'
import { Appearances } from './appearances.tsx'
import { TermChoice } from './term-choice.tsx'
import type { PostWork } from './use-post.ts'

const text = words.posts

interface Props {
  work: PostWork
  /** The excerpt that listings show if none is written. */
  startOfText: string
  remove(): void
}

export function PostFacts({ work, startOfText, remove }: Props) {
  const { parts, stored, change, save } = work
  const { matter } = parts
  const names = useRead('GET /api/names', {})
  const problem = (key: string) =>
    save.kind === 'refused'
      ? save.problems.find(({ path }) => path === `/${key}` || path?.startsWith(`/${key}/`))?.message
      : undefined
  return (
    <section className="pane post-facts" aria-label={text.facts}>
      <header>
        <h1>{text.facts}</h1>
        <span className="grow" />
        {stored ? (
          // While the row is read again after a save, its version may be outdated.
          <Button size="small" danger type="text" disabled={work.isReading} onClick={remove}>
            {shared.delete}
          </Button>
        ) : null}
      </header>
      <div className="scroll">
        <div className="fields">
          <Address work={work} problem={problem('slug')} />
          <Publication work={work} zone={names.data?.timeZone ?? 'UTC'} problem={problem('published')} />
          <label>
            {text.category}
            <TermChoice
              kind="category"
              value={matter.category}
              known={names.data?.categories}
              change={(category) => change({ category })}
            />
            <Fault text={problem('category')} />
          </label>
          <label>
            {text.author}
            <TermChoice
              kind="author"
              value={matter.author}
              known={names.data?.authors}
              change={(author) => change({ author })}
            />
            <Fault text={problem('author')} />
          </label>
          <label>
            {text.tags}
            <TermChoice
              kind="tag"
              isMultiple
              value={matter.tags ?? []}
              known={names.data?.tags}
              change={(tags) => change({ tags: tags.length > 0 ? tags : undefined })}
            />
            <Fault text={problem('tags')} />
          </label>
        </div>
        {stored ? <Appearances slug={stored.slug} /> : null}
        <h2 className="part">{text.inListings}</h2>
        <div className="fields">
          <label>
            {text.excerpt}
            <Input.TextArea
              autoSize={{ minRows: 2, maxRows: 5 }}
              placeholder={startOfText === '' ? text.startOfText : startOfText}
              value={matter.excerpt ?? ''}
              maxLength={1000}
              onChange={(event) => change({ excerpt: event.target.value })}
            />
          </label>
          <ImageField work={work} images={names.data?.images ?? []} problem={problem('image')} />
          <label className="row">
            <Switch
              size="small"
              checked={matter.comments !== 'closed'}
              onChange={(open) => change({ comments: open ? undefined : 'closed' })}
            />
            {text.commentsOpen}
          </label>
        </div>
      </div>
    </section>
  )
}

interface ImageProps {
  work: PostWork
  images: AnswerOf<'GET /api/names'>['images']
  problem: string | undefined
}

function ImageField({ work: { parts, change }, images, problem }: ImageProps) {
  const { matter } = parts
  return (
    <>
      <label>
        {text.image}
        <Select
          allowClear
          showSearch
          placeholder={words.none}
          value={matter.image ?? null}
          options={images.map(({ name }) => ({ value: name, label: name }))}
          onChange={(image: string | null) => change({ image: image ?? undefined })}
        />
        <Fault text={problem} />
      </label>
      {matter.image === undefined ? null : (
        <label>
          {text.altText}
          <Input
            value={matter['image-text'] ?? ''}
            maxLength={300}
            placeholder={text.altTextHelp}
            onChange={(event) => change({ 'image-text': event.target.value })}
          />
        </label>
      )}
    </>
  )
}

const Fault = ({ text: problem }: { text: string | undefined }) =>
  problem === undefined ? null : (
    <span className="failed" role="alert">
      {problem}
    </span>
  )

function Address({ work, problem }: { work: PostWork; problem: string | undefined }) {
  const { parts, stored, change } = work
  const typed = parts.matter.slug ?? ''
  const title = parts.matter.title
  // Without its own slug, a new post gets one from its title.
  const isFromTitle = typed === ''
  const answer = useCheckedSlug(
    'post',
    isFromTitle ? title : typed,
    isFromTitle ? 'title' : 'slug',
    stored?.slug ?? null,
  )
  const isTaken = !isFromTitle && answer?.free === false
  return (
    <label>
      {text.address}
      <Input.TextArea
        autoSize={{ minRows: 1, maxRows: 4 }}
        className="mono"
        aria-label={text.slug}
        value={typed}
        placeholder={answer?.suggestion ?? text.fromTitle}
        status={problem !== undefined || isTaken ? 'error' : ''}
        // A long slug is shown on several lines, but is one line.
        onKeyDown={(event) => event.key === 'Enter' && event.preventDefault()}
        onChange={(event) => change({ slug: event.target.value.replace(/\s*\n\s*/g, '') })}
      />
      <Fault text={problem} />
      <span className={isTaken ? 'failed' : 'muted'} role="status">
        {answer === undefined
          ? ''
          : isFromTitle
            ? answer.suggestion === ''
              ? text.noSlug
              : words.slug.free(answer.suggestion)
            : stored?.slug === typed
              ? (answer.address ?? '')
              : (answer.note ?? words.slug.free(answer.address ?? typed))}
        {isTaken && answer.suggestion !== '' ? (
          <>
            {' '}
            <button type="button" className="link" onClick={() => change({ slug: answer.suggestion })}>
              {words.slug.use(answer.suggestion)}
            </button>
          </>
        ) : null}
      </span>
      {stored && stored.former.length > 0 ? (
        <span className="muted">{words.redirects(stored.former)}</span>
      ) : null}
    </label>
  )
}

const DAY_MILLISECONDS = 86_400_000

/** Returns nine o'clock tomorrow, the proposed time of a scheduled post. */
const tomorrow = (zone: string): string =>
  `${wallTimeOf(new Date(Date.now() + DAY_MILLISECONDS).toISOString(), zone).slice(0, 11)}09:00`

function Publication({ work, zone, problem }: { work: PostWork; zone: string; problem: string | undefined }) {
  const { parts, stored, change } = work
  const { published } = parts.matter
  const former = stored?.formerPublishedAt ?? null
  const when = published === undefined ? 'draft' : published === 'now' ? 'now' : 'time'
  const isInstant = published !== undefined && /Z$|[+-]\d{2}:\d{2}$/.test(published)
  const wall =
    published === undefined || published === 'now' ? '' : isInstant ? wallTimeOf(published, zone) : published
  const isPast = wall !== '' && wall <= wallTimeOf(new Date().toISOString(), zone)
  const choose = (next: string) =>
    change({
      published:
        next === 'draft'
          ? undefined
          : next === 'time'
            ? tomorrow(zone)
            : // A post that was published before keeps its date.
              (former ?? 'now'),
    })
  return (
    <div className="field">
      <span>{text.published}</span>
      <Segmented
        block
        aria-label={text.published}
        options={[
          { value: 'draft', label: text.draft },
          { value: 'now', label: text.now },
          { value: 'time', label: isPast ? text.publishedOn : text.scheduleFor },
        ]}
        value={when}
        onChange={choose}
      />
      {when === 'time' ? (
        <DateTimePicker
          label={text.time}
          value={wall.slice(0, 16)}
          change={(next) => change({ published: next })}
        />
      ) : null}
      <Fault text={problem} />
      <span className="muted">
        {when === 'draft'
          ? `${text.draftNote}${former === null ? '' : ` ${text.formerNote(formatDateTime(former, zone))}`}`
          : when === 'now'
            ? text.nowNote
            : isInstant
              ? text.timeNote(formatDateTime(published, zone), zone, fromNow(published, new Date()))
              : (wallTimeNote(wall, zone) ?? text.zoneNote(zone))}
      </span>
    </div>
  )
}
