/** What can be written of a category, tag or author. */
import { Input, Select } from 'antd'
import { useState } from 'react'
import type { ProblemItem, Term } from '../../../../contract/operations.ts'
import { ApiProblem } from '../../../api/client.ts'
import { asSentence } from '../../../shared/words/words.ts'
import { useJudgedSlug } from '../parts/slug-field.tsx'
import type { TermKind } from '../../../../core/shapes/content-kinds.ts'

export interface Fields {
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

/** What is being written, and what the server had against it; that is forgotten when something is changed. */
export function useTermForm(start: Fields) {
  const [fields, setFields] = useState(start)
  const [problems, setProblems] = useState<readonly ProblemItem[]>([])
  const change = (changes: Partial<Fields>) => {
    setProblems([])
    setFields({ ...fields, ...changes })
  }
  return { form: { fields, problems, change }, setFields, setProblems }
}

export function TermFields({ kind, own, terms, fields, change, problems }: FormProps) {
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

export const fieldsOf = ({ name, slug, about, parent }: Term): Fields => ({
  name,
  slug,
  about: about ?? '',
  parent: parent ?? '',
})

export const isSame = (one: Fields, other: Fields): boolean => changesInWords(one, other) === ''

/** E.g. `name is “Lamps” now`. */
export const changesInWords = (before: Fields, after: Fields): string =>
  (['name', 'slug', 'about', 'parent'] as const)
    .filter((key) => before[key] !== after[key])
    .map(
      (key) =>
        `${key === 'parent' ? 'the one it is in' : key} is ${after[key] === '' ? 'empty' : `“${after[key]}”`} now`,
    )
    .join(', ')

export const bodyOf = (kind: TermKind, { name, slug, about, parent }: Fields) => ({
  name: name.trim(),
  ...(slug.trim() === '' ? {} : { slug: slug.trim() }),
  ...(kind === 'author' ? { about } : {}),
  ...(kind === 'category' ? { parent: parent === '' ? null : parent } : {}),
})

export const problemsOf = (error: unknown): readonly ProblemItem[] =>
  error instanceof ApiProblem ? (error.details.problems ?? []) : []
