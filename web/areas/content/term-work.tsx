/** The category, tag or author that is open: changed, merged into another, deleted; and a new one. */
import { useQueryClient } from '@tanstack/react-query'
import { App, Button, Input, Select } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import type { ProblemItem, Term } from '../../../server/workbench/contract.ts'
import { ApiProblem, call } from '../../api/client.ts'
import { whyRefused } from '../../shared/why-refused.ts'
import { asSentence, plural } from '../../shared/words.ts'
import { useDeletionNotice } from './deleted.tsx'
import { refreshContent } from './refresh.ts'
import { useJudgedSlug } from './slug-field.tsx'
import { postsInWords, TERM_WORDS, type TermKind } from './terms-area.tsx'

interface Fields {
  name: string
  /** Empty: made of the name. */
  slug: string
  about: string
  /** Empty: none. */
  parent: string
}

interface FormProps {
  kind: TermKind
  own: Term | null
  terms: readonly Term[]
  fields: Fields
  change(fields: Partial<Fields>): void
  problems: readonly ProblemItem[]
}

function TermFields({ kind, own, terms, fields, change, problems }: FormProps) {
  const { name, slug, about, parent } = fields
  const fromTitle = slug === ''
  const judged = useJudgedSlug(kind, fromTitle ? name : slug, fromTitle ? 'title' : 'slug', own?.slug ?? null)
  const isOwn = own !== null && slug === own.slug
  const problem = (path: string) => problems.find((one) => one.path === path)?.message
  const fault = (path: string) => {
    const text = problem(path)
    return text === undefined ? null : (
      <span className="failed" role="alert">
        {asSentence(text)}
      </span>
    )
  }
  return (
    <>
      <label>
        Name
        <Input
          autoFocus={own === null}
          value={name}
          maxLength={120}
          status={problem('/name') ? 'error' : ''}
          onChange={(event) => change({ name: event.target.value })}
        />
        {fault('/name')}
      </label>
      <label>
        Slug
        <Input
          className="mono"
          value={slug}
          maxLength={100}
          placeholder={judged?.suggestion ?? 'made from the name'}
          status={problem('/slug') || (!fromTitle && !isOwn && judged?.free === false) ? 'error' : ''}
          onChange={(event) => change({ slug: event.target.value })}
        />
        {fault('/slug')}
        <span className={!fromTitle && !isOwn && judged?.free === false ? 'failed' : 'muted'} role="status">
          {isOwn
            ? (own.address ?? 'No route shows it.')
            : judged === undefined
              ? ''
              : fromTitle
                ? judged.suggestion === ''
                  ? 'No slug can be made from this name; write one.'
                  : `It will be ${judged.suggestion}.`
                : asSentence(judged.note ?? `${judged.address ?? slug} is free`)}
        </span>
      </label>
      {kind === 'author' ? (
        <label>
          About
          <Input.TextArea
            autoSize={{ minRows: 2, maxRows: 6 }}
            value={about}
            maxLength={1000}
            onChange={(event) => change({ about: event.target.value })}
          />
        </label>
      ) : null}
      {kind === 'category' ? (
        <label>
          In
          <Select
            value={parent}
            showSearch={{ optionFilterProp: 'label' }}
            options={[
              { value: '', label: 'none: it is at the top' },
              ...terms
                .filter((one) => one.slug !== own?.slug)
                .map((one) => ({ value: one.slug, label: `${'— '.repeat(one.depth)}${one.name}` })),
            ]}
            onChange={(next: string) => change({ parent: next })}
          />
          {fault('/parent')}
        </label>
      ) : null}
    </>
  )
}

const bodyOf = (kind: TermKind, { name, slug, about, parent }: Fields) => ({
  name: name.trim(),
  ...(slug.trim() === '' ? {} : { slug: slug.trim() }),
  ...(kind === 'author' ? { about } : {}),
  ...(kind === 'category' ? { parent: parent === '' ? null : parent } : {}),
})

const problemsOf = (error: unknown): readonly ProblemItem[] =>
  error instanceof ApiProblem ? (error.details.problems ?? []) : []

interface NewProps {
  kind: TermKind
  terms: readonly Term[]
  made(slug: string): void
  leave(): void
}

export function NewTerm({ kind, terms, made, leave }: NewProps) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const [fields, setFields] = useState<Fields>({ name: '', slug: '', about: '', parent: '' })
  const [problems, setProblems] = useState<readonly ProblemItem[]>([])
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
      <TermFields
        kind={kind}
        own={null}
        terms={terms}
        fields={fields}
        problems={problems}
        change={(next) => {
          setProblems([])
          setFields({ ...fields, ...next })
        }}
      />
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
  const stored: Fields = {
    name: term.name,
    slug: term.slug,
    about: term.about ?? '',
    parent: term.parent ?? '',
  }
  const [fields, setFields] = useState(stored)
  const [problems, setProblems] = useState<readonly ProblemItem[]>([])
  const [conflict, setConflict] = useState(false)
  const isChanged = JSON.stringify(fields) !== JSON.stringify(stored)
  const save = async () => {
    try {
      const saved = await call('PUT /api/term', {
        query: { kind, slug: term.slug },
        body: { version: term.version, ...bodyOf(kind, fields) },
      })
      moved(saved.slug)
      await refreshContent(client)
      void message.success('Saved')
    } catch (error) {
      setProblems(problemsOf(error))
      if (error instanceof ApiProblem && error.details.status === 409) setConflict(true)
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
        {conflict ? (
          <p className="failed" role="alert">
            Somebody else changed this {kind} meanwhile.{' '}
            <button type="button" className="link" onClick={() => void refreshContent(client)}>
              Show theirs
            </button>{' '}
            (what you typed here goes).
          </p>
        ) : null}
        <TermFields
          kind={kind}
          own={term}
          terms={terms}
          fields={fields}
          problems={problems}
          change={(next) => {
            setProblems([])
            setFields({ ...fields, ...next })
          }}
        />
        {term.former.length > 0 ? (
          <p className="muted">
            {term.former.join(', ')} {term.former.length === 1 ? 'leads' : 'lead'} here.
          </p>
        ) : null}
        <div className="buttons">
          <Button type="primary" htmlType="submit" disabled={!isChanged || fields.name.trim() === ''}>
            Save
          </Button>
          {isChanged ? <Button onClick={() => setFields(stored)}>As it is stored</Button> : null}
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
