/** The text of a post or page in Markdown, with a toolbar for what people ask for. */
import type { EditorView } from '@codemirror/view'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { App, Button, Popover, Select, Upload } from 'antd'
import { lazy, Suspense, useDeferredValue, useRef, useState } from 'react'
import { call } from '../../../api/client.ts'
import { refreshLists } from '../parts/refresh.ts'
import { sendImage, whyNotTaken } from '../images/send-image.ts'
import { block, heading, image, link, surround, type Edit, type Selection } from './markdown-edits.ts'

const CodeEditor = lazy(async () => ({
  default: (await import('../../../shared/editor/code-editor.tsx')).CodeEditor,
}))

interface Props {
  text: string
  change(text: string): void
  /** What the text is, for who cannot see it. */
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
  const bringIn = useBringImageIn((name) => apply((all, at) => image(all, at, `/media/${name}`)))
  const takePictures = (event: { preventDefault(): void; stopPropagation(): void }, data: DataTransfer) => {
    const pictures = [...data.files].filter((file) => file.type.startsWith('image/'))
    if (pictures.length === 0) return
    event.preventDefault()
    event.stopPropagation()
    void pictures.reduce((before, one) => before.then(() => bringIn(one)), Promise.resolve())
  }
  return (
    <div
      className="post-text"
      onPasteCapture={(event) => takePictures(event, event.clipboardData)}
      onDropCapture={(event) => takePictures(event, event.dataTransfer)}
      onKeyDown={(event) => {
        if (!event.ctrlKey && !event.metaKey) return
        const mark = { b: '**', i: '*' }[event.key.toLowerCase()]
        if (mark === undefined) return
        event.preventDefault()
        apply((all, at) => surround(all, at, mark, 'text'))
      }}
    >
      <div className="tools" role="toolbar" aria-label="Marks of the text">
        <Button size="small" onClick={() => apply((all, at) => heading(all, at, 2))}>
          Heading
        </Button>
        <Button
          size="small"
          title="Ctrl B"
          onClick={() => apply((all, at) => surround(all, at, '**', 'text'))}
        >
          <b>Bold</b>
        </Button>
        <Button
          size="small"
          title="Ctrl I"
          onClick={() => apply((all, at) => surround(all, at, '*', 'text'))}
        >
          <i>Italic</i>
        </Button>
        <Button size="small" onClick={() => apply((all, at) => link(all, at, 'https://'))}>
          Link
        </Button>
        <Chooser label="Link to a post">
          {(close) => (
            <PostChoice
              chosen={(address, title) => {
                close()
                apply((all, at) => link(all, at, address, title))
              }}
            />
          )}
        </Chooser>
        <Chooser label="Image">
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
          Table
        </Button>
        <Button size="small" onClick={() => apply((all, at) => block(all, at, 'code'))}>
          Code
        </Button>
      </div>
      <div className="writing">
        <Suspense fallback={<div className="quiet small">Opening the editor …</div>}>
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
  const found = useQuery({
    queryKey: ['posts', 'choice', search],
    queryFn: () => call('GET /api/posts', { query: { search, size: '20' } }),
    placeholderData: (known) => known,
  })
  return (
    <Select
      autoFocus
      defaultOpen
      showSearch={{ filterOption: false, onSearch: setTyped }}
      aria-label="Post to link to"
      placeholder="words of its title or text"
      style={{ width: '100%' }}
      notFoundContent={found.isPending ? 'Looking …' : 'No post has these words'}
      options={(found.data?.posts ?? []).map(({ slug, title, state }) => ({
        value: slug,
        label: state === 'published' ? title : `${title} (${state})`,
      }))}
      onSelect={(slug: string) => {
        void call('GET /api/post', { query: { slug } }).then((post) =>
          chosen(post.address ?? `/posts/${slug}`, post.matter.title),
        )
      }}
    />
  )
}

function ImageChoice({ chosen }: { chosen(name: string): void }) {
  const names = useQuery({ queryKey: ['names'], queryFn: () => call('GET /api/names', {}) })
  const bringIn = useBringImageIn(chosen)
  return (
    <div className="image-choice">
      <Select
        autoFocus
        defaultOpen
        showSearch
        aria-label="Image"
        placeholder="name of the image"
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
          void bringIn(file)
          return false
        }}
      >
        <Button size="small">Bring one in …</Button>
      </Upload>
    </div>
  )
}

/** Sends a picture; what was left out of a drawing is said. */
function useBringImageIn(done: (name: string) => void) {
  const client = useQueryClient()
  const { message } = App.useApp()
  return async (file: File) => {
    try {
      const { name, removed } = await sendImage(file)
      if (removed.length > 0)
        void message.warning(`${name} is here without ${removed.map((one) => one.what).join(', ')}`, 8)
      done(name)
      await refreshLists(client)
    } catch (error) {
      void message.error(whyNotTaken(error), 8)
    }
  }
}
