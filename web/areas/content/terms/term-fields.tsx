/** The fields of a category, tag or author. */
import { Input, Select } from 'antd'
import { useState } from 'react'
import type { ProblemItem } from '../../../../contract/problem.ts'
import type { Term } from '../../../../contract/terms.ts'
import { ApiProblem } from '../../../api/client.ts'
import { useCheckedSlug } from '../parts/slug-field.tsx'
import type { TermKind } from '../../../../core/shapes/content-kinds.ts'
import { words } from '../words.ts'

const text = words.terms

export interface Fields {
  name: string
  /** Empty to derive it from the name. */
  slug: string
  about: string
  /** Empty for none. */
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

/** The typed fields, and the problems of the last save until a field changes. */
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
  const isFromName = slug === ''
  const checked = useCheckedSlug(
    kind,
    isFromName ? name : slug,
    isFromName ? 'title' : 'slug',
    own?.slug ?? null,
  )
  const isOwn = own !== null && slug === own.slug
  const problem = (path: string) => problems.find((one) => one.path === path)?.message
  const fault = (path: string) => {
    const message = problem(path)
    return message === undefined ? null : (
      <span className="failed" role="alert">
        {message}
      </span>
    )
  }
  return (
    <>
      <label>
        {text.name}
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
        {text.slug}
        <Input
          className="mono"
          value={slug}
          maxLength={100}
          placeholder={checked?.suggestion ?? text.fromName}
          status={problem('/slug') || (!isFromName && !isOwn && checked?.free === false) ? 'error' : ''}
          onChange={(event) => change({ slug: event.target.value })}
        />
        {fault('/slug')}
        <span className={!isFromName && !isOwn && checked?.free === false ? 'failed' : 'muted'} role="status">
          {isOwn
            ? (own.address ?? text.noRoute)
            : checked === undefined
              ? ''
              : isFromName
                ? checked.suggestion === ''
                  ? text.noSlug
                  : text.willBe(checked.suggestion)
                : (checked.note ?? words.slug.free(checked.address ?? slug))}
        </span>
      </label>
      {kind === 'author' ? (
        <label>
          {text.about}
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
          {text.parent}
          <Select
            value={parent}
            showSearch={{ optionFilterProp: 'label' }}
            options={[
              { value: '', label: text.top },
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

export const isSame = (one: Fields, other: Fields): boolean => describeChanges(one, other) === ''

/** Returns e.g. `name is now “Lamps”`; an empty text if nothing differs. */
export const describeChanges = (before: Fields, after: Fields): string =>
  (['name', 'slug', 'about', 'parent'] as const)
    .filter((key) => before[key] !== after[key])
    .map((key) => text.isNow(text.fields[key], after[key]))
    .join(', ')

export const bodyOf = (kind: TermKind, { name, slug, about, parent }: Fields) => ({
  name: name.trim(),
  ...(slug.trim() === '' ? {} : { slug: slug.trim() }),
  ...(kind === 'author' ? { about } : {}),
  ...(kind === 'category' ? { parent: parent === '' ? null : parent } : {}),
})

export const problemsOf = (error: unknown): readonly ProblemItem[] =>
  error instanceof ApiProblem ? (error.details.problems ?? []) : []
