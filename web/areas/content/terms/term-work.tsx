/** The category, tag or author that is open: changed, merged into another, deleted; and a new one. */
import { useQueryClient } from '@tanstack/react-query'
import { App, Button, Select } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Term } from '../../../../contract/operations.ts'
import { ApiProblem, call } from '../../../api/client.ts'
import { whyRefused } from '../../../shared/words/why-refused.ts'
import { asSentence, plural } from '../../../shared/words/words.ts'
import { useDeletionNotice } from '../parts/deleted.tsx'
import { refreshContent } from '../parts/refresh.ts'
import {
  bodyOf,
  changesInWords,
  fieldsOf,
  isSame,
  problemsOf,
  TermFields,
  useTermForm,
} from './term-fields.tsx'
import type { TermKind } from '../../../../core/shapes/content-kinds.ts'
import { postsInWords, TERM_WORDS } from './term-words.ts'

interface NewProps {
  kind: TermKind
  terms: readonly Term[]
  made(slug: string): void
  leave(): void
}

export function NewTerm({ kind, terms, made, leave }: NewProps) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const { form, setProblems } = useTermForm({ name: '', slug: '', about: '', parent: '' })
  const { fields } = form
  const make = async () => {
    try {
      const { slug } = await call('POST /api/terms', { body: { kind, ...bodyOf(kind, fields) } })
      await refreshContent(client)
      void message.success(`“${fields.name.trim()}” is there`)
      made(slug)
    } catch (error) {
      setProblems(problemsOf(error))
      void message.error(whyRefused(error), 8)
    }
  }
  return (
    <form
      className="fields"
      onSubmit={(event) => {
        event.preventDefault()
        void make()
      }}
    >
      <h1>{kind === 'author' ? 'A new author' : `A new ${kind}`}</h1>
      <TermFields kind={kind} own={null} terms={terms} {...form} />
      <div className="buttons">
        <Button type="primary" htmlType="submit" disabled={fields.name.trim() === ''}>
          Make it
        </Button>
        <Button onClick={leave}>Leave it</Button>
      </div>
    </form>
  )
}

interface OpenProps {
  kind: TermKind
  term: Term
  terms: readonly Term[]
  moved(slug: string | null): void
}

export function OpenTerm({ kind, term, terms, moved }: OpenProps) {
  const client = useQueryClient()
  const { message } = App.useApp()
  /** What was there when this began to be typed. */
  const [base, setBase] = useState(term)
  const { form, setFields, setProblems } = useTermForm(fieldsOf(term))
  const { fields } = form
  const isChanged = !isSame(fields, fieldsOf(base))
  const isBehind = term.version !== base.version
  const take = (theirs: Term) => {
    setBase(theirs)
    setFields(fieldsOf(theirs))
  }
  // Nothing of one's own is lost by it.
  if (isBehind && (!isChanged || isSame(fields, fieldsOf(term)))) take(term)
  else if (isBehind && isSame(fieldsOf(base), fieldsOf(term))) setBase(term)
  const save = async () => {
    const trimmed = { ...fields, name: fields.name.trim(), slug: fields.slug.trim() }
    setFields(trimmed)
    try {
      const saved = await call('PUT /api/term', {
        query: { kind, slug: term.slug },
        body: { version: base.version, ...bodyOf(kind, trimmed) },
      })
      moved(saved.slug)
      await refreshContent(client)
      void message.success('Saved')
    } catch (error) {
      setProblems(problemsOf(error))
      if (error instanceof ApiProblem && error.details.status === 409) await refreshContent(client)
      else void message.error(whyRefused(error), 8)
    }
  }
  const { many } = TERM_WORDS[kind]
  const used = term.posts.published + term.posts.scheduled + term.posts.draft
  return (
    <div className="scroll">
      <form
        className="fields"
        onSubmit={(event) => {
          event.preventDefault()
          void save()
        }}
      >
        <h1>{term.name}</h1>
        {isBehind && isChanged ? (
          <Conflict
            kind={kind}
            changes={changesInWords(fieldsOf(base), fieldsOf(term))}
            takeTheirs={() => take(term)}
            keepMine={() => setBase(term)}
          />
        ) : null}
        <TermFields kind={kind} own={term} terms={terms} {...form} />
        {term.former.length > 0 ? (
          <p className="muted">
            {term.former.join(', ')} {term.former.length === 1 ? 'leads' : 'lead'} here.
          </p>
        ) : null}
        <div className="buttons">
          <Button
            type="primary"
            htmlType="submit"
            disabled={!isChanged || isBehind || fields.name.trim() === ''}
          >
            Save
          </Button>
          {isChanged ? <Button onClick={() => take(term)}>As it is stored</Button> : null}
        </div>
      </form>
      <h2 className="part">Posts</h2>
      <p className="fields">
        <span>
          {asSentence(postsInWords(term))}{' '}
          {used > 0 ? (
            <Link className="link" to={`/content/posts?${kind}=${term.slug}`}>
              See them
            </Link>
          ) : null}{' '}
          {term.address === null ? null : (
            <Link className="link" to={`/walk?path=${encodeURIComponent(term.address)}`}>
              Walk {term.address}
            </Link>
          )}
        </span>
      </p>
      <h2 className="part">Take it out</h2>
      <TakeOut
        kind={kind}
        term={term}
        others={terms.filter((one) => one !== term)}
        many={many}
        used={used}
        gone={() => moved(null)}
        merged={moved}
      />
    </div>
  )
}

interface ConflictProps {
  kind: TermKind
  changes: string
  takeTheirs(): void
  keepMine(): void
}

/** Somebody else saved while this was typed: neither is lost. */
function Conflict({ kind, changes, takeTheirs, keepMine }: ConflictProps) {
  return (
    <div className="failed" role="alert">
      <p>
        Somebody else changed this {kind} meanwhile: {changes}. Your own is still here, and not saved.
      </p>
      <div className="buttons">
        <Button size="small" onClick={takeTheirs}>
          Take theirs
        </Button>
        <Button size="small" onClick={keepMine}>
          Keep mine, to save it over theirs
        </Button>
      </div>
    </div>
  )
}

interface TakeOutProps {
  kind: TermKind
  term: Term
  others: readonly Term[]
  many: string
  used: number
  gone(): void
  merged(slug: string): void
}

function TakeOut({ kind, term, others, many, used, gone, merged }: TakeOutProps) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const tell = useDeletionNotice()
  const [into, setInto] = useState<string | null>(null)
  const remove = async (target: string | null) => {
    try {
      const { deleted, count } = await call('POST /api/term/delete', {
        query: { kind, slug: term.slug },
        body: { version: term.version, ...(target === null ? { evenIfUsed: true } : { into: target }) },
      })
      if (target === null) gone()
      else merged(target)
      await refreshContent(client)
      const name = others.find((one) => one.slug === target)?.name ?? ''
      tell(
        target === null
          ? `“${term.name}” deleted${count > 0 ? `; ${plural(count, 'post is', 'posts are')} without it` : ''}`
          : `“${term.name}” is “${name}” now${count > 0 ? `, ${plural(count, 'post')} with it` : ''}`,
        [deleted],
        ([back]) => back && merged(back.name),
      )
    } catch (error) {
      void message.error(whyRefused(error), 8)
    }
  }
  return (
    <div className="fields take-out">
      <div className="two-buttons">
        <Select
          aria-label={`Merge into another ${kind}`}
          placeholder={`another ${kind}`}
          showSearch={{ optionFilterProp: 'label' }}
          value={into}
          options={others.map((one) => ({ value: one.slug, label: one.name }))}
          onChange={setInto}
        />
        <Button disabled={into === null} onClick={() => void remove(into)}>
          Merge into it
        </Button>
      </div>
      <span className="muted">
        Its posts go over, and its address leads there.{' '}
        {others.length === 0 ? `There are no other ${many}.` : ''}
      </span>
      <div>
        <Button danger onClick={() => void remove(null)}>
          {used === 0 ? 'Delete it' : `Delete it; ${plural(used, 'post is', 'posts are')} left without`}
        </Button>
      </div>
      <span className="muted">Either can be undone for 30 days.</span>
    </div>
  )
}
