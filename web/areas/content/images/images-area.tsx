/** The images: the list, uploads, and the open image with everything that uses it. */
import { Button, Input, Segmented, Upload } from 'antd'
import { useRef, useState } from 'react'
import { Link } from 'react-router'
import type { ImageItem } from '../../../../contract/images.ts'
import { errorText } from '../../../shared/words/error-text.ts'
import { useRead, useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { focusLater } from '../../../shared/focus/focus.ts'
import { documentLink } from '../../../shared/editor/documents.ts'
import { Chip, Copy } from '../../../shared/marks/marks.tsx'
import { useSession } from '../../../shared/frame/session.ts'
import { formatBytes } from '../../../shared/words/format.ts'
import { useAddressState } from '../parts/address-state.ts'
import { ContentTabs } from '../parts/content-tabs.tsx'
import { FilesMenu } from '../parts/files-menu.tsx'
import { useDeletionNotice } from '../parts/deleted.tsx'
import { useListKeys } from '../parts/use-list-keys.ts'
import { fromNow } from '../parts/wall-time.ts'
import { words } from '../words.ts'
import { useUploadImage, type Uploaded } from './use-upload-image.ts'
import './images.css'

const NONE: readonly ImageItem[] = []
const ACCEPTED = '.png,.jpg,.jpeg,.webp,.gif,.svg'

const text = words.images

/** How many removed parts of an image are listed. */
const PARTS_SHOWN = 5

type FileUpload = { file: string; answer: Uploaded } | { file: string; refused: string }

export function ImagesArea() {
  const [parameters, change] = useAddressState()
  const open = parameters.get('image')
  const onlyUnused = parameters.get('show') === 'unused'
  const list = useRead('GET /api/images', {})
  const images = list.data ?? NONE
  const [search, setSearch] = useState('')
  const unused = images.filter((one) => one.uses.length === 0)
  const shown = (onlyUnused ? unused : images).filter((one) => one.name.includes(search.trim().toLowerCase()))
  const { uploads, upload, isUploading, clear } = useUploads((name) => change({ image: name }))
  const pane = useRef<HTMLElement>(null)
  const focusSearch = () => focusLater(() => pane.current?.querySelector<HTMLElement>('input[type=search]'))
  useListKeys({
    names: shown.map((one) => one.name),
    open,
    choose: (name) => change({ image: name }),
    create: () => document.querySelector<HTMLElement>('.image-drop input')?.click(),
  })
  const opened = images.find((one) => one.name === open)
  const session = useSession()
  const origin = session.data?.blog ?? ''
  return (
    <>
      <section ref={pane} className="pane content-list" aria-label={text.title}>
        <ContentTabs />
        <div className="tools-line">
          <Input
            type="search"
            size="small"
            aria-label={text.find}
            placeholder={text.find}
            allowClear
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <Segmented
            size="small"
            aria-label={text.filter}
            value={onlyUnused ? 'unused' : 'all'}
            options={[
              { value: 'all', label: text.all },
              { value: 'unused', label: text.unused(unused.length) },
            ]}
            onChange={(show) => change({ show: show === 'unused' ? 'unused' : null })}
          />
          <FilesMenu kind="image" many="images" />
        </div>
        <ul className="scroll rows thumbs">
          {shown.map((one) => (
            <li key={one.name} data-id={one.name} className={one.name === open ? 'on' : ''}>
              <button
                type="button"
                className="row"
                aria-current={one.name === open}
                onClick={() => change({ image: one.name })}
              >
                <img loading="lazy" src={`${origin}${one.address}?v=${one.sha256.slice(0, 8)}`} alt="" />
                <b>{one.name}</b>
                <span className="muted">
                  {one.width} × {one.height} · {formatBytes(one.bytes)}
                </span>
                {one.uses.length === 0 ? (
                  <Chip tone="look">{text.isUnused}</Chip>
                ) : (
                  <span className="muted">{text.uses(one.uses.length)}</span>
                )}
              </button>
            </li>
          ))}
          {list.error ? <li className="quiet small">{list.error.message}</li> : null}
          {list.data && shown.length === 0 ? (
            <li className="quiet small">
              {images.length === 0 ? text.empty : onlyUnused && search === '' ? text.allUsed : text.noMatch}
            </li>
          ) : null}
        </ul>
        <footer>
          <span>
            {text.total(images.length, formatBytes(images.reduce((sum, one) => sum + one.bytes, 0)))}
          </span>
          <span className="grow" />
          <span>{text.keys}</span>
        </footer>
      </section>
      <section className="pane open-image wide" aria-label={text.label}>
        <Upload.Dragger
          className="image-drop"
          multiple
          accept={ACCEPTED}
          showUploadList={false}
          disabled={isUploading}
          beforeUpload={(file, all) => {
            if (all[0] === file) void upload(all)
            return false
          }}
        >
          <b>{isUploading ? text.uploading : text.drop}</b>
          <span className="muted">{text.rules}</span>
        </Upload.Dragger>
        {uploads.length > 0 ? (
          <UploadReport
            uploads={uploads}
            clear={() => {
              clear()
              focusSearch()
            }}
            choose={(name) => change({ image: name })}
          />
        ) : null}
        {opened ? (
          <OpenImage
            image={opened}
            origin={origin}
            replace={(files) => upload(files, opened.name)}
            close={() => {
              change({ image: null })
              focusSearch()
            }}
          />
        ) : open !== null && list.data ? (
          <div className="quiet">
            <h1>{text.unknown(open)}</h1>
          </div>
        ) : (
          <div className="quiet">
            <p>{text.open}</p>
          </div>
        )}
      </section>
    </>
  )
}

/** Uploads files one after the other. Each has its own outcome. */
function useUploads(show: (name: string) => void) {
  const uploadOne = useUploadImage()
  const [uploads, setUploads] = useState<readonly FileUpload[]>([])
  const [isUploading, setUploading] = useState(false)
  const upload = async (files: readonly File[], replaces?: string) => {
    setUploading(true)
    setUploads([])
    let last: string | undefined
    for (const file of files) {
      let one: FileUpload
      try {
        const answer = await uploadOne(file, replaces)
        last = answer.name
        one = { file: file.name, answer }
      } catch (error) {
        one = { file: file.name, refused: errorText(error) }
      }
      setUploads((known) => [...known, one])
    }
    if (last !== undefined) show(last)
    setUploading(false)
  }
  return { uploads, upload, isUploading, clear: () => setUploads([]) }
}

function UploadReport({
  uploads,
  clear,
  choose,
}: {
  uploads: readonly FileUpload[]
  clear(): void
  choose(name: string): void
}) {
  return (
    <div className="upload-report" role="status">
      <ul>
        {uploads.map((one, index) => (
          <li key={index}>
            <code>{one.file}</code>{' '}
            {'refused' in one ? (
              <span className="failed">{one.refused}</span>
            ) : (
              <>
                <Chip tone={one.answer.outcome === 'same' ? 'plain' : 'fine'}>
                  {text.outcomes[one.answer.outcome]}
                </Chip>{' '}
                <button type="button" className="link" onClick={() => choose(one.answer.name)}>
                  {one.answer.name}
                </button>
                {one.answer.removed.length > 0 ? (
                  <span className="muted"> {describeRemoved(one.answer.removed)}</span>
                ) : null}
              </>
            )}
          </li>
        ))}
      </ul>
      <Button size="small" type="text" onClick={clear}>
        {text.close}
      </Button>
    </div>
  )
}

function describeRemoved(removed: Uploaded['removed']): string {
  const parts = removed
    .slice(0, PARTS_SHOWN)
    .map(({ what, line }) => (line === null ? what : text.partAtLine(what, line)))
  // Only the parts of SVG images have lines.
  const isCode = removed.some((one) => one.line !== null)
  return `${text.without(parts, Math.max(0, removed.length - PARTS_SHOWN))}${isCode ? text.couldRun : text.couldBeRead}`
}

interface OpenProps {
  image: ImageItem
  origin: string
  replace(files: readonly File[]): Promise<void>
  close(): void
}

function OpenImage({ image, origin, replace, close }: OpenProps) {
  const write = useWrite()
  const notices = useNotices()
  const noteDeletion = useDeletionNotice()
  const remove = async () => {
    try {
      const { deleted } = await write('DELETE /api/image', { query: { name: image.name } })
      close()
      noteDeletion(text.deleted(image.name), [deleted])
    } catch (error) {
      notices.failed(error)
    }
  }
  const markdown = `![](${image.address})`
  const pictures = image.uses.filter((one) => one.how === 'picture').length
  return (
    <div className="scroll image-detail">
      <figure>
        <img src={`${origin}${image.address}?v=${image.sha256.slice(0, 8)}`} alt={text.alt(image.name)} />
        <figcaption>
          <h1>{image.name}</h1>
          <dl>
            <dt>{text.type}</dt>
            <dd>{image.type}</dd>
            <dt>{text.size}</dt>
            <dd>{text.dimensions(image.width, image.height, formatBytes(image.bytes))}</dd>
            <dt>{text.added}</dt>
            <dd>{fromNow(image.addedAt, new Date())}</dd>
            <dt>{text.markdown}</dt>
            <dd>
              <code>{markdown}</code> <Copy text={markdown} what={text.theMarkdown} />
            </dd>
          </dl>
          <div className="buttons">
            <Upload
              accept={ACCEPTED}
              showUploadList={false}
              beforeUpload={(file) => {
                void replace([file])
                return false
              }}
            >
              <Button size="small">{text.replace}</Button>
            </Upload>
            <Button size="small" danger onClick={() => void remove()}>
              {text.deleteButton(pictures)}
            </Button>
          </div>
        </figcaption>
      </figure>
      <h2 className="part">{image.uses.length === 0 ? text.notUsed : text.usedBy}</h2>
      <ul className="uses">
        {image.uses.map((one) => (
          <li key={`${one.how} ${one.kind} ${one.name}`}>
            <Link className="link" to={linkTo(one)}>
              {one.title}
            </Link>{' '}
            <span className="muted">{text.useOf[one.how === 'picture' ? 'picture' : one.kind]}</span>
          </li>
        ))}
      </ul>
    </div>
  )
}

function linkTo({ kind, name }: ImageItem['uses'][number]): string {
  const encoded = encodeURIComponent(name)
  if (kind === 'post') return `/content/posts?post=${encoded}`
  return kind === 'page' ? `/content/pages?page=${encoded}` : documentLink(name)
}
