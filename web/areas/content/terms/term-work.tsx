/** The open category, tag or author, and a new one. */
import { Button, Select } from 'antd'
import { useRef, useState } from 'react'
import { Link } from 'react-router'
import type { Term } from '../../../../contract/terms.ts'
import { ApiProblem } from '../../../api/client.ts'
import { useRead, useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { focusLater } from '../../../shared/focus/focus.ts'
import { useSaveKey } from '../../../shared/editor/use-unsaved.ts'
import { asSentence } from '../../../shared/words/format.ts'
import { words as shared } from '../../../shared/words/words.ts'
import { useDeletionNotice } from '../parts/deleted.tsx'
import {
  bodyOf,
  describeChanges,
  fieldsOf,
  isSame,
  problemsOf,
  TermFields,
  useTermForm,
} from './term-fields.tsx'
import type { TermKind } from '../../../../core/shapes/content-kinds.ts'
import { words } from '../words.ts'

const text = words.terms

interface NewProps {
  kind: TermKind
  terms: readonly Term[]
  onCreated(slug: string): void
  close(): void
}

export function NewTerm({ kind, terms, onCreated, close }: NewProps) {
  const write = useWrite()
  const notices = useNotices()
  const { form, setProblems } = useTermForm({ name: '', slug: '', about: '', parent: '' })
  const { fields } = form
  const create = async () => {
    if (fields.name.trim() === '') return
    try {
      const { slug } = await write('POST /api/terms', { body: { kind, ...bodyOf(kind, fields) } })
      notices.done(text.created(fields.name.trim()))
      onCreated(slug)
    } catch (error) {
      setProblems(problemsOf(error))
      notices.failed(error)
    }
  }
  useSaveKey(() => void create())
  return (
    <form
      className="fields"
      onSubmit={(event) => {
        event.preventDefault()
        void create()
      }}
    >
      <h1>{text.newTitle(kind)}</h1>
      <TermFields kind={kind} own={null} terms={terms} {...form} />
      <div className="buttons">
        <Button type="primary" htmlType="submit" disabled={fields.name.trim() === ''}>
          {shared.create}
        </Button>
        <Button onClick={close}>{shared.cancel}</Button>
      </div>
    </form>
  )
}

interface OpenProps {
  kind: TermKind
  term: Term
  terms: readonly Term[]
  /** Called with the current slug after a save, or null after a deletion. */
  onChanged(slug: string | null): void
}

export function OpenTerm({ kind, term, terms, onChanged }: OpenProps) {
  const write = useWrite()
  const notices = useNotices()
  // The list is read again after a conflict, and shows what someone else has saved.
  const list = useRead('GET /api/terms', { query: { kind } })
  const box = useRef<HTMLFormElement>(null)
  const focusName = () => focusLater(() => box.current?.querySelector('input'))
  /** The stored term that the typed fields are based on. */
  const [base, setBase] = useState(term)
  const { form, setFields, setProblems } = useTermForm(fieldsOf(term))
  const { fields } = form
  const isChanged = !isSame(fields, fieldsOf(base))
  const isOutdated = term.version !== base.version
  const take = (theirs: Term) => {
    setBase(theirs)
    setFields(fieldsOf(theirs))
  }
  // Nothing that was typed is lost.
  if (isOutdated && (!isChanged || isSame(fields, fieldsOf(term)))) take(term)
  else if (isOutdated && isSame(fieldsOf(base), fieldsOf(term))) setBase(term)
  const canSave = isChanged && !isOutdated && fields.name.trim() !== ''
  const save = async () => {
    if (!canSave) return
    const trimmed = { ...fields, name: fields.name.trim(), slug: fields.slug.trim() }
    setFields(trimmed)
    try {
      const saved = await write('PUT /api/term', {
        query: { kind, slug: term.slug },
        body: { version: base.version, ...bodyOf(kind, trimmed) },
      })
      const undo = async () => {
        const undone = await write('PUT /api/term', {
          query: { kind, slug: saved.slug },
          body: { version: saved.version, ...bodyOf(kind, fieldsOf(base)) },
        })
        onChanged(undone.slug)
      }
      onChanged(saved.slug)
      focusName()
      notices.done(text.saved(trimmed.name), undo, { purged: saved.purged })
    } catch (error) {
      setProblems(problemsOf(error))
      if (error instanceof ApiProblem && error.isConflict) await list.refetch()
      else notices.failed(error)
    }
  }
  useSaveKey(() => void save())
  const used = term.posts.published + term.posts.scheduled + term.posts.draft
  return (
    <div className="scroll">
      <form
        ref={box}
        className="fields"
        onSubmit={(event) => {
          event.preventDefault()
          void save()
        }}
      >
        <h1>{term.name}</h1>
        {isOutdated && isChanged ? (
          <Conflict
            kind={kind}
            changes={describeChanges(fieldsOf(base), fieldsOf(term))}
            useTheirs={() => {
              take(term)
              focusName()
            }}
            keepMine={() => {
              setBase(term)
              focusName()
            }}
          />
        ) : null}
        <TermFields kind={kind} own={term} terms={terms} {...form} />
        {term.former.length > 0 ? <p className="muted">{words.redirects(term.former)}</p> : null}
        <div className="buttons">
          <Button type="primary" htmlType="submit" disabled={!canSave}>
            {shared.save}
          </Button>
          {isChanged ? (
            <Button
              onClick={() => {
                take(term)
                focusName()
              }}
            >
              {text.reset}
            </Button>
          ) : null}
        </div>
      </form>
      <h2 className="part">{text.posts}</h2>
      <p className="fields">
        <span>
          {asSentence(usageOf(term))}{' '}
          {used > 0 ? (
            <Link className="link" to={`/content/posts?${kind}=${term.slug}`}>
              {text.show}
            </Link>
          ) : null}{' '}
          {term.address === null ? null : (
            <Link className="link" to={`/walk?path=${encodeURIComponent(term.address)}`}>
              {text.walk(term.address)}
            </Link>
          )}
        </span>
      </p>
      <h2 className="part">{text.delete}</h2>
      <Removal
        kind={kind}
        term={term}
        others={terms.filter((one) => one !== term)}
        used={used}
        onDeleted={() => onChanged(null)}
        onMerged={onChanged}
      />
    </div>
  )
}

interface ConflictProps {
  kind: TermKind
  changes: string
  useTheirs(): void
  keepMine(): void
}

/** Someone else has saved the term while this was typed. One of both has to be chosen. */
function Conflict({ kind, changes, useTheirs, keepMine }: ConflictProps) {
  return (
    <div className="failed" role="alert">
      <p>{text.conflict(kind, changes)}</p>
      <div className="buttons">
        <Button size="small" onClick={useTheirs}>
          {text.useTheirs}
        </Button>
        <Button size="small" onClick={keepMine}>
          {text.keepMine}
        </Button>
      </div>
    </div>
  )
}

/** Returns e.g. `4 posts, 1 draft`. */
export const usageOf = ({ posts: { published, scheduled, draft } }: Term): string =>
  text.usage(published, scheduled, draft)

interface RemovalProps {
  kind: TermKind
  term: Term
  others: readonly Term[]
  used: number
  onDeleted(): void
  onMerged(slug: string): void
}

/** Merges a term into another one, or deletes it. */
function Removal({ kind, term, others, used, onDeleted, onMerged }: RemovalProps) {
  const write = useWrite()
  const notices = useNotices()
  const noteDeletion = useDeletionNotice()
  const [into, setInto] = useState<string | null>(null)
  const remove = async (target: string | null) => {
    try {
      const { deleted, posts } = await write('POST /api/term/delete', {
        query: { kind, slug: term.slug },
        body: { version: term.version, ...(target === null ? { evenIfUsed: true } : { into: target }) },
      })
      if (target === null) onDeleted()
      else onMerged(target)
      const name = others.find((one) => one.slug === target)?.name ?? ''
      noteDeletion(
        target === null ? text.deleted(term.name, posts) : text.merged(term.name, name, posts),
        [deleted],
        (restored) => onMerged(restored.name),
      )
    } catch (error) {
      notices.failed(error)
    }
  }
  return (
    <div className="fields removal">
      <div className="two-buttons">
        <Select
          aria-label={text.mergeInto(kind)}
          placeholder={text.another(kind)}
          showSearch={{ optionFilterProp: 'label' }}
          value={into}
          options={others.map((one) => ({ value: one.slug, label: one.name }))}
          onChange={setInto}
        />
        <Button disabled={into === null} onClick={() => void remove(into)}>
          {text.merge}
        </Button>
      </div>
      <span className="muted">
        {text.mergeHelp} {others.length === 0 ? text.noOthers(text.of[kind].many) : ''}
      </span>
      <div>
        <Button danger onClick={() => void remove(null)}>
          {text.deleteButton(used)}
        </Button>
      </div>
      <span className="muted">{text.undoHelp}</span>
    </div>
  )
}
