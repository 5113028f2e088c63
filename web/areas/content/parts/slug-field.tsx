/** A slug being typed for something that has one: judged as it is typed, taken with Enter. */
import { useQuery } from '@tanstack/react-query'
import { Button, Input } from 'antd'
import { useDeferredValue, useState } from 'react'
import type { QueryOf } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { asSentence } from '../../../shared/words/words.ts'

export type SlugKind = QueryOf<'GET /api/slug'>['kind']

/** What would become of a slug, or of one made from a title. */
export function useJudgedSlug(kind: SlugKind, text: string, from: 'title' | 'slug', own: string | null) {
  const wanted = useDeferredValue(text)
  const judged = useQuery({
    queryKey: ['slug', kind, own, from, wanted],
    queryFn: () =>
      call('GET /api/slug', { query: { kind, text: wanted, from, ...(own === null ? {} : { own }) } }),
    enabled: wanted.trim() !== '',
    placeholderData: (known) => known,
  })
  return wanted.trim() === '' ? undefined : judged.data
}

interface Props {
  kind: SlugKind
  /** Slug, or path of a page. */
  own: string
  take(slug: string): void
  leave(): void
}

export function SlugField({ kind, own, take, leave }: Props) {
  const slug = own.split('/').at(-1) ?? own
  const [text, setText] = useState(slug)
  const answer = useJudgedSlug(kind, text, 'slug', own)
  const isChanged = text !== slug
  const isTakeable = isChanged && answer?.slug === text && answer.free
  return (
    <form
      className="slug-field"
      onSubmit={(event) => {
        event.preventDefault()
        if (isTakeable) take(text)
      }}
    >
      <Input
        autoFocus
        size="small"
        className="mono"
        aria-label="New slug"
        value={text}
        status={isChanged && answer && !answer.free ? 'error' : ''}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && leave()}
      />
      <Button size="small" htmlType="submit" type="primary" disabled={!isTakeable}>
        Take it
      </Button>
      <span className={isChanged && answer && !answer.free ? 'failed' : 'muted'} role="status">
        {!isChanged
          ? 'The old address will lead to the new one.'
          : answer
            ? asSentence(answer.note ?? `${text} is free`)
            : ''}
      </span>
    </form>
  )
}
