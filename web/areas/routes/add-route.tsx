/** A new route made whole: choose a beginning, see the change, apply it. */
import { useQuery } from '@tanstack/react-query'
import { Alert, Button, Input, Modal } from 'antd'
import { useDeferredValue, useState } from 'react'
import { numberedName } from './names.ts'
import { call } from '../../api/client.ts'
import { useApply } from '../../shared/changes/apply.ts'
import { whyRefused } from '../../shared/words/why-refused.ts'
import { DocumentDiff } from '../../shared/editor/diff.tsx'
import { Plate } from '../../shared/marks/marks.tsx'

const KINDS = [
  {
    kind: 'listing',
    label: 'A listing',
    what: 'all published posts, newest first, in numbered pages',
    name: 'journal',
    path: '/journal',
    parameters: '',
  },
  {
    kind: 'single',
    label: 'A single post',
    what: 'one published post by its slug, else not found',
    name: 'story',
    path: '/stories',
    parameters: '/:slug',
  },
  {
    kind: 'category',
    label: 'A category listing',
    what: 'the posts of a category, in numbered pages',
    name: 'topic',
    path: '/topics',
    parameters: '/:category',
  },
  {
    kind: 'page',
    label: 'A page tree',
    what: 'pages by their path, else the next route',
    name: 'handbook',
    path: '/handbook',
    parameters: '/:page',
  },
  {
    kind: 'month',
    label: 'A month archive',
    what: 'the posts of a month, by the blog’s own clock',
    name: 'archive',
    path: '/archive',
    parameters: '/:year/:month',
  },
  {
    kind: 'redirect',
    label: 'A redirect',
    what: 'an old address leads to another one, for good',
    name: 'moved',
    path: '/old-address',
    parameters: '',
  },
] as const

interface Props {
  /** Names of the routes there are. */
  taken: readonly string[]
  close(): void
  added(name: string): void
}

export function AddRoute({ taken, close, added }: Props) {
  const free = (wanted: string) => numberedName(wanted, taken)
  /** An address of its own where the name is taken: another route may answer the usual one. */
  const freePath = (one: (typeof KINDS)[number]) => `${one.path}${free(one.name).slice(one.name.length)}`
  const [kind, setKind] = useState<(typeof KINDS)[number]>(KINDS[0])
  const [name, setName] = useState<string>(free(KINDS[0].name))
  const [path, setPath] = useState<string>(freePath(KINDS[0]))
  const [to, setTo] = useState('/')
  const [applying, setApplying] = useState(false)
  const { save } = useApply()
  const wish = useDeferredValue(
    JSON.stringify({
      kind: kind.kind,
      name,
      path: path.startsWith('/') ? path : `/${path}`,
      ...(kind.kind === 'redirect' ? { to } : {}),
    }),
  )
  const preview = useQuery({
    queryKey: ['starting-point', wish],
    queryFn: () =>
      call('POST /api/starting-point', {
        body: JSON.parse(wish) as { kind: 'listing'; name: string; path: string },
      }),
    retry: false,
  })
  const apply = async () => {
    setApplying(true)
    const changes = preview.data?.changes ?? []
    const texts = Object.fromEntries(changes.map((one) => [one.document, one.text]))
    const made = Object.fromEntries(changes.map((one) => [one.document, one.before]))
    const done = kind.kind === 'redirect' ? 'is there' : 'is there, with its query and template'
    if (await save(texts, `Route “${name}” ${done}`, made)) added(name)
    else await preview.refetch()
    setApplying(false)
  }
  return (
    <Modal
      open
      onCancel={close}
      width={860}
      title="Add a route"
      className="add-route"
      footer={
        <>
          <Button onClick={close}>Leave it</Button>
          <Button
            type="primary"
            loading={applying}
            disabled={!preview.data || preview.isError}
            onClick={() => void apply()}
          >
            Apply the change
          </Button>
        </>
      }
    >
      <div className="beginnings" role="radiogroup" aria-label="What to begin with">
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
            <b>{one.label}</b>
            <span className="muted">{one.what}</span>
          </button>
        ))}
      </div>
      <div className="row named">
        <label>
          Name
          <Input className="mono" value={name} onChange={(event) => setName(event.target.value)} />
        </label>
        <label>
          Path
          <Input
            className="mono"
            value={path}
            onChange={(event) => setPath(event.target.value)}
            suffix={<span className="muted">{kind.parameters}</span>}
          />
        </label>
        {kind.kind === 'redirect' ? (
          <label>
            Leads to
            <Input className="mono" value={to} onChange={(event) => setTo(event.target.value)} />
          </label>
        ) : null}
        {preview.data ? <Plate pattern={preview.data.address} /> : null}
      </div>
      {preview.isError ? <Alert type="error" banner title={whyRefused(preview.error)} /> : null}
      <div className="preview">
        {(preview.data?.changes ?? []).map((one) => (
          <DocumentDiff key={one.document} document={one.document} before={one.before} after={one.text} />
        ))}
      </div>
    </Modal>
  )
}
