/** Drafts a route with its query and template, shows the change, and creates it. */
import { Alert, Button, Input, Modal, Select } from 'antd'
import { useDeferredValue, useState } from 'react'
import type { BodyOf } from '../../../contract/operations.ts'
import { useRead } from '../../api/queries.ts'
import { StepPreview } from '../../shared/editor/step-preview.tsx'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { Plate } from '../../shared/marks/marks.tsx'
import { errorText } from '../../shared/words/error-text.ts'
import { words as shared } from '../../shared/words/words.ts'
import { numberedName } from './names.ts'
import { words } from './words.ts'
import './add-route.css'

const text = words.draft

type DraftRequest = BodyOf<'POST /api/routes/draft'>

/** The proposed name and path of each kind, and the parameters that are added to the path. */
const KINDS = [
  { kind: 'listing', name: 'journal', path: '/journal', parameters: '' },
  { kind: 'single', name: 'story', path: '/stories', parameters: '/:slug' },
  { kind: 'category', name: 'topic', path: '/topics', parameters: '/:category' },
  { kind: 'page', name: 'handbook', path: '/handbook', parameters: '/:page' },
  { kind: 'month', name: 'archive', path: '/archive', parameters: '/:year/:month' },
  { kind: 'comments', name: 'add-comment', path: '', parameters: '/comments' },
  { kind: 'redirect', name: 'moved', path: '/old-address', parameters: '' },
] as const

interface Props {
  /** Names of the existing routes. */
  taken: readonly string[]
  close(): void
  onCreated(name: string): void
}

export function AddRoute({ taken, close, onCreated }: Props) {
  const free = (wanted: string) => numberedName(wanted, taken)
  /** If the name is taken, so may be the usual path. */
  const freePath = (one: (typeof KINDS)[number]) => `${one.path}${free(one.name).slice(one.name.length)}`
  const [kind, setKind] = useState<(typeof KINDS)[number]>(KINDS[0])
  const [name, setName] = useState<string>(free(KINDS[0].name))
  const [path, setPath] = useState<string>(freePath(KINDS[0]))
  const [to, setTo] = useState('/')
  const [isApplying, setApplying] = useState(false)
  const { apply } = useChanges()
  const { data: commentable = [], isLoading } = useRead('GET /api/routes/commentable', {})
  const isOfPost = kind.kind === 'comments'
  const ofPost = commentable.includes(path) ? path : (commentable[0] ?? '/')
  /** Nothing can be drafted. */
  const isIdle = isOfPost && commentable.length === 0
  const request = useDeferredValue(
    JSON.stringify({
      kind: kind.kind,
      name,
      path: isOfPost ? ofPost : path.startsWith('/') ? path : `/${path}`,
      ...(kind.kind === 'redirect' ? { to } : {}),
    } satisfies DraftRequest),
  )
  const draft = useRead(
    'POST /api/routes/draft',
    { body: JSON.parse(request) as DraftRequest },
    { retry: false, enabled: !isIdle },
  )
  const create = async () => {
    setApplying(true)
    const isCreated = await apply(draft.data?.steps ?? [], text.created(name, kind.kind === 'redirect'))
    setApplying(false)
    if (isCreated) onCreated(name)
    else await draft.refetch()
  }
  return (
    <Modal
      open
      onCancel={close}
      width={860}
      title={text.title}
      rootClassName="routes-dialog"
      footer={
        <>
          <Button onClick={close}>{shared.cancel}</Button>
          <Button
            type="primary"
            loading={isApplying}
            disabled={isIdle || !draft.data || draft.isError}
            onClick={() => void create()}
          >
            {text.create}
          </Button>
        </>
      }
    >
      <div className="kinds" role="radiogroup" aria-label={text.kinds}>
        {KINDS.map((one) => (
          <button
            key={one.kind}
            type="button"
            role="radio"
            aria-checked={one.kind === kind.kind}
            onClick={() => {
              setKind(one)
              setName(free(one.name))
              setPath(freePath(one))
            }}
          >
            <b>{text.kind[one.kind][0]}</b>
            <span className="muted">{text.kind[one.kind][1]}</span>
          </button>
        ))}
      </div>
      <div className="row named">
        <label>
          {text.name}
          <Input className="mono" value={name} onChange={(event) => setName(event.target.value)} />
        </label>
        <label>
          {isOfPost ? text.ofPost : text.path}
          {isOfPost ? (
            <Select
              aria-label={text.ofPost}
              {...(isIdle ? {} : { value: ofPost })}
              onChange={setPath}
              disabled={isIdle}
              options={commentable.map((one) => ({ value: one, label: one }))}
            />
          ) : (
            <Input
              className="mono"
              value={path}
              onChange={(event) => setPath(event.target.value)}
              suffix={<span className="muted">{kind.parameters}</span>}
            />
          )}
        </label>
        {kind.kind === 'redirect' ? (
          <label>
            {text.target}
            <Input className="mono" value={to} onChange={(event) => setTo(event.target.value)} />
          </label>
        ) : null}
        {draft.data && !isIdle ? <Plate pattern={draft.data.address} /> : null}
      </div>
      {isIdle && !isLoading ? <p className="quiet small">{text.noPost}</p> : null}
      {draft.isError && !isIdle ? <Alert type="error" banner title={errorText(draft.error)} /> : null}
      <div className="preview">
        {(isIdle ? [] : (draft.data?.steps ?? [])).map((step, index) => (
          <StepPreview key={index} step={step} />
        ))}
      </div>
    </Modal>
  )
}
