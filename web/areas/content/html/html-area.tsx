/** The allow-list of HTML: shown, tried with a text, and restricted. */
import { Button, Checkbox, Input, Switch } from 'antd'
import { useDeferredValue, useRef, useState } from 'react'
import { ELEMENT_GROUPS } from '../../../../core/shapes/html-elements.ts'
import type { AnswerOf } from '../../../../contract/operations.ts'
import { useRead, useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { useSession } from '../../../shared/frame/session.ts'
import { focusLater } from '../../../shared/focus/focus.ts'
import { PageFrame } from '../../../shared/page/page-frame.tsx'
import { useSaveKey } from '../../../shared/editor/use-unsaved.ts'
import { words as shared } from '../../../shared/words/words.ts'
import { ContentTabs } from '../parts/content-tabs.tsx'
import { words } from '../words.ts'
import './html.css'

const text = words.html

type List = AnswerOf<'GET /api/html'>
type Rule = List['rule']

const EXAMPLE = `A **bold** word, and HTML: <u>under</u>, <kbd>Ctrl</kbd>.

<details><summary>More</summary>Details.</details>

Removed: <a href="javascript:alert(1)">a link that runs</a>,
<b onclick="alert(1)">a handler</b>, <iframe src="https://elsewhere.test"></iframe>
<script>alert(1)</script>`

export function HtmlArea() {
  const list = useRead('GET /api/html', {}, { staleTime: 0 })
  const pane = useRef<HTMLElement>(null)
  const focusFirst = () => focusLater(() => pane.current?.querySelector<HTMLElement>('[role=switch]'))
  const [changed, setChanged] = useState<Rule | null>(null)
  const rule = changed ?? list.data?.rule ?? { typed: true, without: [] }
  const isChanged = list.data !== undefined && changed !== null && !sameRule(changed, list.data.rule)
  const saveRule = useSaveRule(() => {
    setChanged(null)
    focusFirst()
  })
  const save = () => {
    if (isChanged && list.data) void saveRule(list.data, rule)
  }
  useSaveKey(save)
  return (
    <>
      <section ref={pane} className="pane content-list" aria-label={text.title}>
        <ContentTabs />
        <div className="tools-line">
          <label className="inline">
            <Switch size="small" checked={rule.typed} onChange={(typed) => setChanged({ ...rule, typed })} />
            {text.typed}
          </label>
          <span className="grow" />
          {isChanged ? (
            <Button
              size="small"
              onClick={() => {
                setChanged(null)
                focusFirst()
              }}
            >
              {text.reset}
            </Button>
          ) : null}
          <Button size="small" type="primary" disabled={!isChanged} onClick={save}>
            {shared.save}
          </Button>
        </div>
        <div className="scroll elements">
          <p className="muted">{text.help(list.data?.latest.toLocaleString('en-GB') ?? '')}</p>
          {list.error ? <p className="failed">{list.error.message}</p> : null}
          {ELEMENT_GROUPS.map((group) => (
            <fieldset key={group}>
              <legend>{group}</legend>
              {(list.data?.elements ?? [])
                .filter((one) => one.group === group)
                .map((one) => (
                  <Checkbox
                    key={one.name}
                    checked={!rule.without.includes(one.name)}
                    onChange={(event) =>
                      setChanged({
                        ...rule,
                        without: event.target.checked
                          ? rule.without.filter((name) => name !== one.name)
                          : [...rule.without, one.name],
                      })
                    }
                  >
                    <code title={text.attributes(one.attributes)}>{one.name}</code>
                    {one.texts > 0 ? (
                      <span className="muted" title={text.texts(one.texts)}>
                        {' '}
                        {one.texts}
                      </span>
                    ) : null}
                  </Checkbox>
                ))}
            </fieldset>
          ))}
        </div>
        <footer>
          <span>
            {list.data
              ? text.count(list.data.elements.length - rule.without.length, list.data.elements.length)
              : ''}
          </span>
          <span className="grow" />
          <span>{text.links(list.data?.schemes ?? [])}</span>
        </footer>
      </section>
      <TryOut rule={rule} isChanged={isChanged} />
    </>
  )
}

const sameRule = (a: Rule, b: Rule) =>
  a.typed === b.typed && [...a.without].sort().join(' ') === [...b.without].sort().join(' ')

function useSaveRule(onSaved: () => void) {
  const write = useWrite()
  const notices = useNotices()
  return async (before: List, rule: Rule) => {
    try {
      const { version } = await write('PUT /api/html', { body: { version: before.version, rule } })
      onSaved()
      notices.done(text.saved, async () => {
        await write('PUT /api/html', { body: { version, rule: before.rule } })
      })
    } catch (error) {
      notices.failed(error)
    }
  }
}

/** The width at which the page is laid out, in pixels. */
const WIDTH = 560

/** Shows what readers get of a typed text. */
function TryOut({ rule, isChanged }: { rule: Rule; isChanged: boolean }) {
  const [typed, setTyped] = useState(EXAMPLE)
  const wanted = useDeferredValue(typed)
  const session = useSession()
  const preview = useRead(
    'POST /api/html/preview',
    { body: { text: wanted, rule } },
    { placeholderData: (known) => known, staleTime: 0 },
  )
  const { data } = preview
  return (
    <section className="pane html-trial wide" aria-label={text.try}>
      <header>
        <h1>{text.try}</h1>
        <span className="muted">{isChanged ? text.tryUnsaved : text.trySaved}</span>
      </header>
      <div className="three">
        <label>
          <span>{text.input}</span>
          <Input.TextArea
            className="mono"
            value={typed}
            maxLength={500_000}
            spellCheck={false}
            onChange={(event) => setTyped(event.target.value)}
          />
        </label>
        <div>
          <span>{text.output}</span>
          <pre className="scroll" tabIndex={0} aria-label={text.output}>
            {data?.html ?? ''}
          </pre>
        </div>
        <div>
          <span>{text.page}</span>
          {data && session.data ? (
            <PageFrame
              html={pageOf(data.html, data.styles)}
              policy={data.policy}
              address={`${session.data.blog}/`}
              width={WIDTH}
              title={text.page}
            />
          ) : null}
        </div>
        <div className="dropped" role="status">
          <span>{text.removed}</span>
          {preview.error ? <p className="failed">{preview.error.message}</p> : null}
          {data?.removed.length === 0 ? <p className="muted">{text.nothingRemoved}</p> : null}
          <ul>
            {(data?.removed ?? []).map((one) => (
              <li key={one.what}>
                <code>{one.what}</code>
                {one.times > 1 ? <span className="muted"> {text.times(one.times)}</span> : null}
              </li>
            ))}
          </ul>
        </div>
      </div>
    </section>
  )
}

/** Returns a page with the blog's stylesheets. */
const pageOf = (html: string, styles: readonly string[]): string =>
  `<!doctype html><html lang="en"><head>${styles
    .map((address) => `<link rel="stylesheet" href="${address}">`)
    .join('')}</head><body><main><article>${html}</article></main></body></html>`
