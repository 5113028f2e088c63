/** Images: brought in, looked at, found where they are used or that they are not, replaced, deleted. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { App, Button, Input, Segmented, Upload } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import type { AnswerOf, ImageItem } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { whyRefused } from '../../../shared/words/why-refused.ts'
import { documentLink } from '../../../shared/editor/documents.ts'
import { Chip, Copy } from '../../../shared/marks/marks.tsx'
import { useSession } from '../../../shared/frame/session.ts'
import { asSentence, formatBytes, plural } from '../../../shared/words/words.ts'
import { useAddressState } from '../parts/address-state.ts'
import { ContentTabs } from '../parts/content-tabs.tsx'
import { FilesMenu } from '../parts/files-menu.tsx'
import { useDeletionNotice } from '../parts/deleted.tsx'
import { refreshContent } from '../parts/refresh.ts'
import { sendImage, whyNotTaken } from './send-image.ts'
import { useListKeys } from '../parts/use-list-keys.ts'
import { fromNow } from '../parts/wall-time.ts'
import './images.css'

const NONE: readonly ImageItem[] = []
const TAKEN = '.png,.jpg,.jpeg,.webp,.gif,.svg'

type Added = { file: string; answer: AnswerOf<'PUT /api/image'> } | { file: string; refused: string }

export function ImagesArea() {
  const [parameters, change] = useAddressState()
  const open = parameters.get('image')
  const onlyUnused = parameters.get('show') === 'unused'
  const list = useQuery({ queryKey: ['images'], queryFn: () => call('GET /api/images', {}) })
  const images = list.data ?? NONE
  const [search, setSearch] = useState('')
  const unused = images.filter((one) => one.uses.length === 0)
  const shown = (onlyUnused ? unused : images).filter((one) => one.name.includes(search.trim().toLowerCase()))
  const { added, bringIn, isGoing, clear } = useBringIn((name) => change({ image: name }))
  useListKeys({
    names: shown.map((one) => one.name),
    open,
    choose: (name) => change({ image: name }),
    begin: () => document.querySelector<HTMLElement>('.image-drop input')?.click(),
  })
  const opened = images.find((one) => one.name === open)
  const session = useSession()
  const origin = session.data?.blog ?? ''
  return (
    <>
      <section className="pane content-list" aria-label="Images">
        <ContentTabs />
        <div className="tools-line">
          <Input
            type="search"
            size="small"
            aria-label="Find images"
            placeholder="Find by name"
            allowClear
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <Segmented
            size="small"
            aria-label="Which images"
            value={onlyUnused ? 'unused' : 'all'}
            options={[
              { value: 'all', label: 'All' },
              { value: 'unused', label: `Unused · ${unused.length}` },
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
                  <Chip tone="look">unused</Chip>
                ) : (
                  <span className="muted">{plural(one.uses.length, 'use')}</span>
                )}
              </button>
            </li>
          ))}
          {list.error ? <li className="quiet small">{list.error.message}</li> : null}
          {list.data && shown.length === 0 ? (
            <li className="quiet small">
              {images.length === 0
                ? 'There is no image yet. Drop one on the right.'
                : onlyUnused && search === ''
                  ? 'Every image is used.'
                  : 'No image is called so.'}
            </li>
          ) : null}
        </ul>
        <footer>
          <span>
            {plural(images.length, 'image')}, {formatBytes(images.reduce((sum, one) => sum + one.bytes, 0))}
          </span>
          <span className="grow" />
          <span>J K to go · N to bring one in</span>
        </footer>
      </section>
      <section className="pane open-image wide" aria-label="The image">
        <Upload.Dragger
          className="image-drop"
          multiple
          accept={TAKEN}
          showUploadList={false}
          disabled={isGoing}
          beforeUpload={(file, all) => {
            if (all[0] === file) void bringIn(all)
            return false
          }}
        >
          <b>{isGoing ? 'Bringing in …' : 'Drop pictures here, or choose them'}</b>
          <span className="muted">
            PNG, JPEG, WebP, GIF or SVG, told by what is in the file; up to 10 MB and 12,000 pixels a side
          </span>
        </Upload.Dragger>
        {added.length > 0 ? (
          <BroughtIn added={added} clear={clear} choose={(name) => change({ image: name })} />
        ) : null}
        {opened ? (
          <OpenImage
            image={opened}
            origin={origin}
            replace={(files) => bringIn(files, opened.name)}
            close={() => change({ image: null })}
          />
        ) : open !== null && list.data ? (
          <div className="quiet">
            <h1>There is no image “{open}”</h1>
          </div>
        ) : (
          <div className="quiet">
            <p>Open an image to see where it is used.</p>
          </div>
        )}
      </section>
    </>
  )
}

/** Sends files one after the other; each has its own outcome. */
function useBringIn(show: (name: string) => void) {
  const client = useQueryClient()
  const [added, setAdded] = useState<readonly Added[]>([])
  const [isGoing, setGoing] = useState(false)
  const bringIn = async (files: readonly File[], replaces?: string) => {
    setGoing(true)
    setAdded([])
    let last: string | undefined
    for (const file of files) {
      let one: Added
      try {
        const answer = await sendImage(file, replaces)
        last = answer.name
        one = { file: file.name, answer }
      } catch (error) {
        one = { file: file.name, refused: whyNotTaken(error) }
      }
      setAdded((known) => [...known, one])
    }
    await refreshContent(client)
    if (last !== undefined) show(last)
    setGoing(false)
  }
  return { added, bringIn, isGoing, clear: () => setAdded([]) }
}

const OUTCOMES = { added: 'brought in', replaced: 'in its place', same: 'was here already' } as const

function BroughtIn({
  added,
  clear,
  choose,
}: {
  added: readonly Added[]
  clear(): void
  choose(name: string): void
}) {
  return (
    <div className="brought-in" role="status">
      <ul>
        {added.map((one, index) => (
          <li key={index}>
            <code>{one.file}</code>{' '}
            {'refused' in one ? (
              <span className="failed">{asSentence(one.refused)}</span>
            ) : (
              <>
                <Chip tone={one.answer.outcome === 'same' ? 'plain' : 'fine'}>
                  {OUTCOMES[one.answer.outcome]}
                </Chip>{' '}
                <button type="button" className="link" onClick={() => choose(one.answer.name)}>
                  {one.answer.name}
                </button>
                {one.answer.removed.length > 0 ? (
                  <span className="muted">
                    {' '}
                    without{' '}
                    {one.answer.removed
                      .slice(0, 5)
                      .map((gone) => (gone.line === null ? gone.what : `${gone.what} (line ${gone.line})`))
                      .join(', ')}
                    {one.answer.removed.length > 5 ? ` and ${one.answer.removed.length - 5} more` : ''}
                    {one.answer.removed.some((gone) => gone.line !== null)
                      ? ': it could run or load something'
                      : ': readers could have read it in the file'}
                  </span>
                ) : null}
              </>
            )}
          </li>
        ))}
      </ul>
      <Button size="small" type="text" onClick={clear}>
        Close
      </Button>
    </div>
  )
}

interface OpenProps {
  image: ImageItem
  origin: string
  replace(files: readonly File[]): Promise<void>
  close(): void
}

function OpenImage({ image, origin, replace, close }: OpenProps) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const tell = useDeletionNotice()
  const remove = async () => {
    try {
      const { deleted } = await call('DELETE /api/image', { query: { name: image.name } })
      close()
      await refreshContent(client)
      tell(`${image.name} deleted`, [deleted])
    } catch (error) {
      void message.error(whyRefused(error), 8)
    }
  }
  const markdown = `![](${image.address})`
  const pictures = image.uses.filter((one) => one.how === 'picture').length
  return (
    <div className="scroll image-detail">
      <figure>
        <img
          src={`${origin}${image.address}?v=${image.sha256.slice(0, 8)}`}
          alt={`The picture ${image.name}`}
        />
        <figcaption>
          <h1>{image.name}</h1>
          <dl>
            <dt>Type</dt>
            <dd>{image.type}</dd>
            <dt>Size</dt>
            <dd>
              {image.width} × {image.height} pixels, {formatBytes(image.bytes)}
            </dd>
            <dt>Brought in</dt>
            <dd>{fromNow(image.addedAt, new Date())}</dd>
            <dt>In a text</dt>
            <dd>
              <code>{markdown}</code> <Copy text={markdown} what="the Markdown" />
            </dd>
          </dl>
          <div className="buttons">
            <Upload
              accept={TAKEN}
              showUploadList={false}
              beforeUpload={(file) => {
                void replace([file])
                return false
              }}
            >
              <Button size="small">Put another in its place …</Button>
            </Upload>
            <Button size="small" danger onClick={() => void remove()}>
              {pictures === 0
                ? 'Delete it'
                : `Delete it; ${plural(pictures, 'post loses its picture', 'posts lose their picture')}`}
            </Button>
          </div>
        </figcaption>
      </figure>
      <h2 className="part">{image.uses.length === 0 ? 'Nothing uses it' : 'Used by'}</h2>
      <ul className="uses">
        {image.uses.map((one) => (
          <li key={`${one.how} ${one.kind} ${one.name}`}>
            <Link className="link" to={placeOf(one)}>
              {one.title}
            </Link>{' '}
            <span className="muted">
              {one.how === 'picture'
                ? 'as its picture'
                : one.how === 'text'
                  ? `in the text of the ${one.kind}`
                  : 'in the definition'}
            </span>
          </li>
        ))}
      </ul>
    </div>
  )
}

function placeOf({ kind, name }: ImageItem['uses'][number]): string {
  const encoded = encodeURIComponent(name)
  if (kind === 'post') return `/content/posts?post=${encoded}`
  return kind === 'page' ? `/content/pages?page=${encoded}` : documentLink(name)
}
