/** The Markdown text of a post or page, with a toolbar. */
import type { EditorView } from '@codemirror/view'
import { App, Button, Popover, Select, Upload } from 'antd'
import { lazy, Suspense, useDeferredValue, useRef, useState } from 'react'
import { call } from '../../../api/client.ts'
import { useRead } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { useUploadImage } from '../images/use-upload-image.ts'
import { words as shared } from '../../../shared/words/words.ts'
import { words } from '../words.ts'
import { block, heading, image, link, surround, type Edit, type Selection } from './markdown-edits.ts'

const CodeEditor = lazy(async () => ({
  default: (await import('../../../shared/editor/code-editor.tsx')).CodeEditor,
}))

const texts = words.writing

/** How long a message is shown, in seconds. */
const SHOWN = 8

interface Props {
  text: string
  change(text: string): void
  /** For screen readers. */
  label: string
}

export function WrittenText({ text, change, label }: Props) {
  const view = useRef<EditorView | null>(null)
  const apply = (edit: (text: string, selection: Selection) => Edit) => {
    const editor = view.current
    if (!editor) return
    const { from, to } = editor.state.selection.main
    const { select, ...changes } = edit(editor.state.doc.toString(), { from, to })
    editor.dispatch({ changes, selection: { anchor: select.from, head: select.to }, scrollIntoView: true })
    editor.focus()
  }
  const insertFile = useInsertImage((name) => apply((all, at) => image(all, at, `/media/${name}`)))
  const takeImages = (event: { preventDefault(): void; stopPropagation(): void }, data: DataTransfer) => {
    const images = [...data.files].filter((file) => file.type.startsWith('image/'))
    if (images.length === 0) return
    event.preventDefault()
    event.stopPropagation()
    void images.reduce((before, one) => before.then(() => insertFile(one)), Promise.resolve())
  }
  return (
    <div
      className="post-text"
      onPasteCapture={(event) => takeImages(event, event.clipboardData)}
      onDropCapture={(event) => takeImages(event, event.dataTransfer)}
      onKeyDown={(event) => {
        if (!event.ctrlKey && !event.metaKey) return
        const mark = { b: '**', i: '*' }[event.key.toLowerCase()]
        if (mark === undefined) return
        event.preventDefault()
        apply((all, at) => surround(all, at, mark, texts.placeholder))
      }}
    >
      <div className="tools" role="toolbar" aria-label={texts.toolbar}>
        <Button size="small" onClick={() => apply((all, at) => heading(all, at, 2))}>
          {texts.heading}
        </Button>
        <Button
          size="small"
          title="Ctrl B"
          onClick={() => apply((all, at) => surround(all, at, '**', texts.placeholder))}
        >
          <b>{texts.bold}</b>
        </Button>
        <Button
          size="small"
          title="Ctrl I"
          onClick={() => apply((all, at) => surround(all, at, '*', texts.placeholder))}
        >
          <i>{texts.italic}</i>
        </Button>
        <Button size="small" onClick={() => apply((all, at) => link(all, at, 'https://'))}>
          {texts.link}
        </Button>
        <Chooser label={texts.linkToPost}>
          {(close) => (
            <PostChoice
              chosen={(address, title) => {
                close()
                apply((all, at) => link(all, at, address, title))
              }}
            />
          )}
        </Chooser>
        <Chooser label={texts.image}>
          {(close) => (
            <ImageChoice
              chosen={(name) => {
                close()
                apply((all, at) => image(all, at, `/media/${name}`))
              }}
            />
          )}
        </Chooser>
        <Button size="small" onClick={() => apply((all, at) => block(all, at, 'table'))}>
          {texts.table}
        </Button>
        <Button size="small" onClick={() => apply((all, at) => block(all, at, 'code'))}>
          {texts.code}
        </Button>
      </div>
      <div className="writing">
        <Suspense fallback={<div className="quiet small">{shared.editor.opening}</div>}>
          <CodeEditor
            text={text}
            language="markdown"
            height="100%"
            onChange={change}
            onView={(made) => (view.current = made)}
            label={label}
          />
        </Suspense>
      </div>
    </div>
  )
}

function Chooser({ label, children }: { label: string; children: (close: () => void) => React.ReactNode }) {
  const [open, setOpen] = useState(false)
  return (
    <Popover
      open={open}
      onOpenChange={setOpen}
      trigger="click"
      placement="bottomLeft"
      destroyOnHidden
      rootClassName="content-popup"
      content={<div style={{ width: 320 }}>{children(() => setOpen(false))}</div>}
    >
      <Button size="small" aria-expanded={open}>
        {label}
      </Button>
    </Popover>
  )
}

function PostChoice({ chosen }: { chosen(address: string, title: string): void }) {
  const [typed, setTyped] = useState('')
  const search = useDeferredValue(typed)
  const notices = useNotices()
  const found = useRead(
    'GET /api/posts',
    { query: { search, size: '20' } },
    { placeholderData: (known) => known },
  )
  return (
    <Select
      autoFocus
      defaultOpen
      showSearch={{ filterOption: false, onSearch: setTyped }}
      aria-label={texts.postToLink}
      placeholder={texts.findPost}
      style={{ width: '100%' }}
      notFoundContent={found.isPending ? texts.searching : texts.noPosts}
      options={(found.data?.posts ?? []).map(({ slug, title, state }) => ({
        value: slug,
        label: state === 'published' ? title : `${title} (${state})`,
      }))}
      onSelect={(slug: string) => {
        call('GET /api/post', { query: { slug } }).then(
          (post) => chosen(post.address ?? `/posts/${slug}`, post.matter.title),
          notices.failed,
        )
      }}
    />
  )
}

function ImageChoice({ chosen }: { chosen(name: string): void }) {
  const names = useRead('GET /api/names', {})
  const insertFile = useInsertImage(chosen)
  return (
    <div className="image-choice">
      <Select
        autoFocus
        defaultOpen
        showSearch
        aria-label={texts.image}
        placeholder={texts.imageName}
        options={(names.data?.images ?? []).map(({ name, width, height }) => ({
          value: name,
          label: `${name} · ${width} × ${height}`,
        }))}
        onSelect={chosen}
      />
      <Upload
        accept="image/png,image/jpeg,image/webp,image/gif,image/svg+xml"
        showUploadList={false}
        beforeUpload={(file) => {
          void insertFile(file)
          return false
        }}
      >
        <Button size="small">{texts.upload}</Button>
      </Upload>
    </div>
  )
}

/** Returns a function that uploads an image, and reports what was removed from it. */
function useInsertImage(done: (name: string) => void) {
  const upload = useUploadImage()
  const notices = useNotices()
  const { message } = App.useApp()
  return async (file: File) => {
    try {
      const { name, removed } = await upload(file)
      const parts = removed.map((one) => one.what)
      if (parts.length > 0) void message.warning(texts.uploadedWithout(name, parts), SHOWN)
      done(name)
    } catch (error) {
      notices.failed(error)
    }
  }
}
