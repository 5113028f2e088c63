/** The menu of changes that leave every page as it is, and the dialog that shows one before it is applied. */
import { Alert, Button, Dropdown, Input, Modal, type InputRef } from 'antd'
import { useDeferredValue, useRef, useState } from 'react'
import { namedAt } from '../../../core/templates/authoring/under-cursor.ts'
import { SHARED_NAMES } from '../../../core/templates/shared-names.ts'
import { documentName } from '../../../core/shapes/documents.ts'
import { useRead } from '../../api/queries.ts'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { StepPreview } from '../../shared/editor/step-preview.tsx'
import { useUnsavedTexts } from '../../shared/editor/unsaved-texts.ts'
import { errorText } from '../../shared/words/error-text.ts'
import { words as shared } from '../../shared/words/words.ts'
import { words } from './words.ts'

const text = words.rearrange

/** A change, for a place in the text of a document. */
export interface Rearrangement {
  what: 'inline' | 'rename-value' | 'rename-document'
  document: string
  text: string
  at: number
  /** The present name; empty for `inline`. */
  name: string
}

interface MenuProps {
  document: string
  /** The text of the editor. */
  typed: string
  /** The cursor's offset. */
  at: number
  choose(rearrangement: Rearrangement): void
}

export function RearrangeMenu({ document, typed, at, choose }: MenuProps) {
  const isTemplate = document.startsWith('templates/')
  const named = isTemplate ? namedAt(typed, at) : undefined
  const value = named?.kind === 'path' ? (/^[A-Za-z_]\w*/.exec(named.value)?.[0] ?? '') : ''
  const place = { document, text: typed, at }
  const items = [
    {
      key: 'rename-document',
      label: text.renameDocument,
      onClick: () => choose({ what: 'rename-document', ...place, name: nameOf(document) }),
    },
    ...(value === '' || SHARED_NAMES.has(value) || TAGS.has(value)
      ? []
      : [
          {
            key: 'rename-value',
            label: text.renameValue(value),
            onClick: () => choose({ what: 'rename-value', ...place, name: value }),
          },
        ]),
    ...(isTemplate && isInRender(typed, at)
      ? [
          {
            key: 'inline',
            label: text.inline,
            onClick: () => choose({ what: 'inline', ...place, name: '' }),
          },
        ]
      : []),
  ]
  return (
    <Dropdown trigger={['click']} menu={{ items }}>
      <Button size="small" title={text.menuHint}>
        {text.menu}
      </Button>
    </Dropdown>
  )
}

/** First words of tags, which are no values. */
const TAGS = new Set([
  ...[
    'assign',
    'block',
    'break',
    'capture',
    'case',
    'continue',
    'cycle',
    'decrement',
    'echo',
    'else',
    'elsif',
  ],
  ...['endblock', 'endcapture', 'endcase', 'endfor', 'endfragment', 'endif', 'endunless', 'for', 'fragment'],
  ...['if', 'in', 'increment', 'layout', 'render', 'tablerow', 'unless', 'when', 'and', 'or', 'contains'],
])

/** `templates/partials/card.liquid` → `partials/card`; `assets/blog.css` → `blog`. */
const nameOf = (document: string) => documentName(document).replace(/\.\w+$/, '')

/** Whether an offset is in a tag that renders a partial. */
function isInRender(typed: string, at: number): boolean {
  const from = typed.lastIndexOf('{%', at)
  const to = typed.indexOf('%}', from)
  return from !== -1 && to + 2 >= at && /^\{%-?\s*render\b/.test(typed.slice(from, from + 20))
}

interface Props {
  rearrangement: Rearrangement
  close(): void
  /** @param path the document that is open then */
  onApplied(path: string): void
}

export function RearrangeDialog({ rearrangement, close, onApplied }: Props) {
  const { what, document, at, name } = rearrangement
  const [typed, setTyped] = useState(name)
  const wanted = useDeferredValue(typed.trim())
  const [isApplying, setApplying] = useState(false)
  const input = useRef<InputRef>(null)
  const { apply } = useChanges()
  const unsaved = useUnsavedTexts(({ of }) => of)
  const [folder = '', extension = ''] = [
    /^(templates|assets|queries)\//.exec(document)?.[0],
    /\.\w+$/.exec(document)?.[0],
  ]
  const to = `${folder}${wanted}${extension}`
  const isReady = what === 'inline' || (wanted !== '' && wanted !== name)
  const body = { document, text: rearrangement.text, at }
  const how = { enabled: isReady, retry: false, gcTime: 0 }
  const inlined = useRead('POST /api/template/inline', { body }, { ...how, enabled: what === 'inline' })
  const renamed = useRead(
    'POST /api/template/rename-value',
    { body: { ...body, to: wanted } },
    { ...how, enabled: isReady && what === 'rename-value' },
  )
  const moved = useRead(
    'POST /api/document/rename',
    { body: { from: document, to } },
    { ...how, enabled: isReady && what === 'rename-document' },
  )
  const draft = { inline: inlined, 'rename-value': renamed, 'rename-document': moved }[what]
  const steps = isReady && draft.data && !draft.isError ? draft.data.steps : []
  // What is typed in the open document is part of the change, but a document is renamed as it is stored.
  const inTheWay = steps
    .flatMap((step) => ('document' in step ? step.document : []))
    .find((one) => unsaved[one] !== undefined && (what === 'rename-document' || one !== document))
  const confirm = async () => {
    setApplying(true)
    const path = what === 'rename-document' ? to : document
    const isApplied = await apply(
      steps,
      { inline: text.inlined, 'rename-value': text.renamed(name, wanted), 'rename-document': text.moved(to) }[
        what
      ],
    )
    setApplying(false)
    if (!isApplied) return
    useUnsavedTexts.getState().forget(document)
    onApplied(path)
  }
  return (
    <Modal
      open
      onCancel={close}
      // The menu gives the focus back to its button when it closes.
      afterOpenChange={(isOpen) => {
        if (isOpen) input.current?.focus({ cursor: 'all' })
      }}
      width={760}
      title={
        {
          inline: text.inlineTitle,
          'rename-value': text.valueTitle(name),
          'rename-document': text.documentTitle(document),
        }[what]
      }
      footer={
        <>
          <Button onClick={close}>{shared.cancel}</Button>
          <Button
            type="primary"
            loading={isApplying}
            disabled={steps.length === 0 || inTheWay !== undefined}
            onClick={() => void confirm()}
          >
            {text.apply}
          </Button>
        </>
      }
    >
      {what === 'inline' ? null : (
        <Input
          ref={input}
          aria-label={text.newName}
          value={typed}
          addonBefore={what === 'rename-document' ? folder : undefined}
          addonAfter={what === 'rename-document' ? extension : undefined}
          onChange={(event) => setTyped(event.target.value)}
          onPressEnter={() => {
            if (steps.length > 0 && inTheWay === undefined) void confirm()
          }}
        />
      )}
      {inTheWay === undefined ? null : <Alert type="warning" title={text.inTheWay(inTheWay)} />}
      {isReady && draft.isError ? (
        <Alert type="error" title={errorText(draft.error)} />
      ) : steps.length > 0 ? (
        <>
          <p className="muted">{text.changes(steps.length)}</p>
          {steps.map((step, index) => (
            <StepPreview key={index} step={step} />
          ))}
        </>
      ) : null}
    </Modal>
  )
}
