/** Another slug for a post, a category or a page, judged while it is typed; old addresses lead on. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { App, Button, Input } from 'antd'
import { useDeferredValue, useState } from 'react'
import { call } from '../../api/client.ts'
import { refreshDefinition } from '../../shared/changes/apply.ts'
import { whyRefused } from '../../shared/words/why-refused.ts'
import { asSentence, plural } from '../../shared/words/words.ts'

interface Props {
  kind: 'post' | 'page' | 'category' | 'tag' | 'author'
  /** Slug, or path of a page, that it has now. */
  own: string
  done(): void
}

export function ChangeSlug({ kind, own, done }: Props) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const [text, setText] = useState(own)
  const wanted = useDeferredValue(text)
  const judged = useQuery({
    queryKey: ['slug', kind, own, wanted],
    queryFn: () =>
      call('GET /api/slug', {
        query: { kind, text: kind === 'page' ? (wanted.split('/').at(-1) ?? '') : wanted, own },
      }),
    enabled: wanted !== own,
    placeholderData: (known) => known,
  })
  const save = async () => {
    try {
      const { former, address } = await call('PUT /api/slug', { body: { kind, from: own, to: text } })
      await refreshDefinition(client)
      void message.success(
        `${address ?? text} it is${former.length > 0 ? `; ${plural(former.length, 'old address leads', 'old addresses lead')} there` : ''}`,
      )
      done()
    } catch (error) {
      void message.error(whyRefused(error), 8)
    }
  }
  const answer = judged.data
  const isChanged = text !== own
  return (
    <form
      className="change-slug"
      onSubmit={(event) => {
        event.preventDefault()
        void save()
      }}
    >
      <Input
        autoFocus
        size="small"
        className="mono"
        aria-label={kind === 'page' ? 'New path' : 'New slug'}
        value={text}
        status={isChanged && answer && !answer.free ? 'error' : ''}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && done()}
      />
      <Button size="small" htmlType="submit" type="primary" disabled={!isChanged || answer?.free === false}>
        Change it
      </Button>
      <p className={answer && !answer.free ? 'failed' : 'muted'} role="status">
        {!isChanged
          ? 'Readers who have the old address are led to the new one.'
          : answer
            ? asSentence(answer.note ?? `${answer.address ?? text} is free`)
            : ''}
        {answer && !answer.free && answer.suggestion !== '' ? (
          <>
            {' '}
            <button
              type="button"
              className="link"
              onClick={() =>
                setText(
                  own.includes('/')
                    ? `${own.slice(0, own.lastIndexOf('/') + 1)}${answer.suggestion}`
                    : answer.suggestion,
                )
              }
            >
              take {answer.suggestion}
            </button>
          </>
        ) : null}
      </p>
    </form>
  )
}
