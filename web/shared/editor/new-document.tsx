/** Creates a document of the definition under a name, with a starter text. */
import { Button, Input } from 'antd'
import { useState } from 'react'
import { ApiProblem } from '../../api/client.ts'
import { useWrite } from '../../api/queries.ts'
import { useNotices } from '../changes/notices.tsx'
import { documentNameOf } from '../words/format.ts'
import { words } from '../words/words.ts'
import './new-document.css'

interface Props {
  /** What the field is for, e.g. “Name of a new query”. */
  hint: string
  starter: string | ((name: string) => string)
  /** Converts the typed text to a name; an empty text is not a name. */
  nameOf?: (typed: string) => string
  pathOf(name: string): string
  onCreated(name: string): void
}

export function NewDocument({ hint, starter, nameOf = documentNameOf, pathOf, onCreated }: Props) {
  const write = useWrite()
  const notices = useNotices()
  const [typed, setTyped] = useState('')
  const name = nameOf(typed)
  const create = async () => {
    const path = pathOf(name)
    try {
      const text = typeof starter === 'string' ? starter : starter(name)
      await write('PUT /api/document', { body: { path, text, version: 0 } })
      setTyped('')
      onCreated(name)
    } catch (error) {
      const exists = error instanceof ApiProblem && error.isConflict
      notices.failed(exists ? new Error(words.editor.exists(path)) : error)
    }
  }
  return (
    <form
      className="new-document"
      onSubmit={(event) => {
        event.preventDefault()
        void create()
      }}
    >
      <Input
        size="small"
        aria-label={hint}
        placeholder={hint}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
      />
      <Button size="small" htmlType="submit" disabled={name === ''}>
        {words.create}
      </Button>
      {typed.trim() === name ? null : (
        <span className="muted becomes" role="status">
          {name === '' ? words.editor.nameRule : words.editor.becomes(pathOf(name))}
        </span>
      )}
    </form>
  )
}
