/** Moves the selection into a partial: asks for its name, shows the change, and applies it. */
import { Alert, Button, Input, Modal } from 'antd'
import { useDeferredValue, useState } from 'react'
import { templatePath } from '../../../core/shapes/documents.ts'
import { useRead } from '../../api/queries.ts'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { StepPreview } from '../../shared/editor/step-preview.tsx'
import { useUnsavedTexts } from '../../shared/editor/unsaved-texts.ts'
import { errorText } from '../../shared/words/error-text.ts'
import { documentNameOf } from '../../shared/words/format.ts'
import { words as shared } from '../../shared/words/words.ts'
import { words } from './words.ts'

const text = words.extract

export interface Selected {
  document: string
  text: string
  from: number
  to: number
}

interface Props {
  selected: Selected
  close(): void
  onCreated(path: string): void
}

export function ExtractPartial({ selected, close, onCreated }: Props) {
  const [typed, setTyped] = useState<string>(text.initial)
  const [isApplying, setApplying] = useState(false)
  const { apply } = useChanges()
  const name = useDeferredValue(documentNameOf(typed))
  const draft = useRead(
    'POST /api/template/extract',
    { body: { ...selected, name: name || text.initial } },
    { retry: false, gcTime: 0 },
  )
  const create = async () => {
    const path = templatePath(`partials/${name}`)
    setApplying(true)
    const isApplied = await apply(draft.data?.steps ?? [], text.done(path))
    setApplying(false)
    if (!isApplied) return
    // What was typed is part of the change.
    useUnsavedTexts.getState().forget(selected.document)
    onCreated(path)
  }
  return (
    <Modal
      open
      onCancel={close}
      width={760}
      title={text.title}
      footer={
        <>
          <Button onClick={close}>{shared.cancel}</Button>
          <Button
            type="primary"
            loading={isApplying}
            disabled={!draft.data || draft.isError || name === ''}
            onClick={() => void create()}
          >
            {text.create}
          </Button>
        </>
      }
    >
      <Input
        aria-label={text.name}
        value={typed}
        addonBefore="partials/"
        onChange={(event) => setTyped(event.target.value)}
        autoFocus
      />
      {draft.isError ? (
        <Alert type="error" title={errorText(draft.error)} />
      ) : (
        <>
          <p className="muted">{draft.data ? text.takes(draft.data.given) : ''}</p>
          {(draft.data?.steps ?? []).map((step, index) => (
            <StepPreview key={index} step={step} />
          ))}
        </>
      )}
    </Modal>
  )
}
