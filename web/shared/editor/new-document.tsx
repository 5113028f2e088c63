/** Makes a document of the definition under a name, with something in it to begin with. */
import { App, Button, Input } from 'antd'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { ApiProblem, call } from '../../api/client.ts'
import { whyRefused } from '../words/why-refused.ts'
import { plainName } from '../words/words.ts'
import './new-document.css'

interface Props {
  /** What the field is for, e.g. “name of a new query”. */
  hint: string
  starter: string
  /** The name that what is typed becomes; an empty one is none. */
  nameOf?: (typed: string) => string
  /** The document that gets a name. */
  pathOf(name: string): string
  made(name: string): void
}

export function NewDocument({ hint, starter, nameOf = plainName, pathOf, made }: Props) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const [typed, setTyped] = useState('')
  const wanted = nameOf(typed)
  const make = async () => {
    const path = pathOf(wanted)
    try {
      await call('PUT /api/document', { body: { path, text: starter, version: 0 } })
      await client.invalidateQueries({ queryKey: ['documents'] })
      setTyped('')
      made(wanted)
    } catch (error) {
      const isTaken = error instanceof ApiProblem && error.details.status === 409
      void message.error(isTaken ? `${path} is there already` : whyRefused(error), 8)
    }
  }
  return (
    <form
      className="new-document"
      onSubmit={(event) => {
        event.preventDefault()
        void make()
      }}
    >
      <Input
        size="small"
        aria-label={hint}
        placeholder={hint}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
      />
      <Button size="small" htmlType="submit" disabled={wanted === ''}>
        Make it
      </Button>
      {typed.trim() === wanted ? null : (
        <span className="muted becomes" role="status">
          {wanted === '' ? 'A name is letters a–z and digits.' : `becomes ${pathOf(wanted)}`}
        </span>
      )}
    </form>
  )
}
