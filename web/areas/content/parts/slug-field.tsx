/** A field for a new slug, which is checked while it is typed. */
import { Button, Input } from 'antd'
import { useDeferredValue, useState } from 'react'
import type { SlugKind } from '../../../../core/shapes/content-kinds.ts'
import { useRead } from '../../../api/queries.ts'
import { words as shared } from '../../../shared/words/words.ts'
import { words } from '../words.ts'

const text = words.slug

/** Checks a slug, or the slug derived from a title. @param own the slug, or path, that is being changed */
export function useCheckedSlug(kind: SlugKind, typed: string, from: 'title' | 'slug', own: string | null) {
  const wanted = useDeferredValue(typed)
  const isEmpty = wanted.trim() === ''
  const checked = useRead(
    'GET /api/slug',
    { query: { kind, text: wanted, from, ...(own === null ? {} : { own }) } },
    { enabled: !isEmpty, placeholderData: (known) => known },
  )
  return isEmpty ? undefined : checked.data
}

interface Props {
  kind: SlugKind
  /** The current slug, or path of a page. */
  own: string
  save(slug: string): void
  close(): void
}

export function SlugField({ kind, own, save, close }: Props) {
  const slug = own.split('/').at(-1) ?? own
  const [typed, setTyped] = useState(slug)
  const answer = useCheckedSlug(kind, typed, 'slug', own)
  const isChanged = typed !== slug
  const canSave = isChanged && answer?.slug === typed && answer.free
  return (
    <form
      className="slug-field"
      onSubmit={(event) => {
        event.preventDefault()
        if (canSave) save(typed)
      }}
    >
      <Input
        autoFocus
        size="small"
        className="mono"
        aria-label={text.label}
        value={typed}
        status={isChanged && answer && !answer.free ? 'error' : ''}
        onChange={(event) => setTyped(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && close()}
      />
      <Button size="small" htmlType="submit" type="primary" disabled={!canSave}>
        {text.save}
      </Button>
      <Button size="small" onClick={close}>
        {shared.cancel}
      </Button>
      <span className={isChanged && answer && !answer.free ? 'failed' : 'muted'} role="status">
        {!isChanged ? text.note : answer ? (answer.note ?? text.free(typed)) : ''}
      </span>
    </form>
  )
}
