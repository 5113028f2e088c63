/** The allow-list of HTML: seen, tried on a text, narrowed. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { App, Button, Checkbox, Input, Switch } from 'antd'
import { useDeferredValue, useState } from 'react'
import { ELEMENT_GROUPS } from '../../../../core/shapes/html-elements.ts'
import type { AnswerOf } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { whyRefused } from '../../../shared/words/why-refused.ts'
import { useUndoNotice } from '../../../shared/changes/undo-notice.tsx'
import { plural } from '../../../shared/words/words.ts'
import { ContentTabs } from '../parts/content-tabs.tsx'
import { refreshContent } from '../parts/refresh.ts'
import './html.css'

type List = AnswerOf<'GET /api/html'>
type Rule = List['rule']

const EXAMPLE = `A **bold** word, and HTML: <u>under</u>, <kbd>Ctrl</kbd>.

<details><summary>More</summary>Folded away.</details>

What may not stand: <a href="javascript:alert(1)">a link that runs</a>,
<b onclick="alert(1)">a handler</b>, <iframe src="https://elsewhere.test"></iframe>
<script>alert(1)</script>`

export function HtmlArea() {
  const list = useQuery({ queryKey: ['html'], queryFn: () => call('GET /api/html', {}), staleTime: 0 })
  const [changed, setChanged] = useState<Rule | null>(null)
  const rule = changed ?? list.data?.rule ?? { typed: true, without: [] }
  const isChanged = list.data !== undefined && changed !== null && !sameRule(changed, list.data.rule)
  const save = useSaveRule(() => setChanged(null))
  return (
    <>
      <section className="pane content-list" aria-label="HTML that may stand in texts">
        <ContentTabs />
        <div className="tools-line">
          <label className="inline">
            <Switch size="small" checked={rule.typed} onChange={(typed) => setChanged({ ...rule, typed })} />
            HTML may be typed
          </label>
          <span className="grow" />
          {isChanged ? (
            <Button size="small" onClick={() => setChanged(null)}>
              As it is now
            </Button>
          ) : null}
          <Button
            size="small"
            type="primary"
            disabled={!isChanged}
            onClick={() => list.data && void save(list.data, rule)}
          >
            Save
          </Button>
        </div>
        <div className="scroll elements">
          <p className="muted">
            Only these elements ever reach a reader, whether typed or made from Markdown. Without one, its
            text stays. Nothing can be added: everything else is dropped. The number is how many of the newest{' '}
            {list.data?.lookedAt.toLocaleString('en-GB') ?? ''} posts and pages have one.
          </p>
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
                    <code
                      title={
                        one.attributes.length > 0 ? `with ${one.attributes.join(', ')}` : 'without attributes'
                      }
                    >
                      {one.name}
                    </code>
                    {one.texts > 0 ? (
                      <span className="muted" title={plural(one.texts, 'text has one', 'texts have one')}>
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
              ? `${list.data.elements.length - rule.without.length} of ${list.data.elements.length} elements`
              : ''}
          </span>
          <span className="grow" />
          <span>links: {list.data?.schemes.join(', ')}</span>
        </footer>
      </section>
      <Trial rule={rule} isChanged={isChanged} />
    </>
  )
}

const sameRule = (a: Rule, b: Rule) =>
  a.typed === b.typed && [...a.without].sort().join(' ') === [...b.without].sort().join(' ')

function useSaveRule(saved: () => void) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const tell = useUndoNotice()
  const put = async (version: number, rule: Rule) => {
    const answer = await call('PUT /api/html', { body: { version, rule } })
    await refreshContent(client)
    return answer.version
  }
  return async (before: List, rule: Rule) => {
    try {
      const version = await put(before.version, rule)
      saved()
      tell(
        'Saved in blog.yaml; stored texts are made anew',
        async () => void (await put(version, before.rule)),
      )
    } catch (error) {
      void message.error(whyRefused(error), 8)
      await refreshContent(client)
    }
  }
}

function Trial({ rule, isChanged }: { rule: Rule; isChanged: boolean }) {
  const [text, setText] = useState(EXAMPLE)
  const wanted = useDeferredValue(text)
  const trial = useQuery({
    queryKey: ['html-trial', wanted, rule],
    queryFn: () => call('POST /api/html/try', { body: { text: wanted, rule } }),
    placeholderData: (known) => known,
    staleTime: 0,
  })
  return (
    <section className="pane html-trial wide" aria-label="Try a text">
      <header>
        <h1>Try a text</h1>
        <span className="muted">
          {isChanged ? 'by the list as it is ticked, not saved yet' : 'by the list as it is in force'}
        </span>
      </header>
      <div className="three">
        <label>
          <span>Pasted or typed</span>
          <Input.TextArea
            className="mono"
            value={text}
            maxLength={500_000}
            spellCheck={false}
            onChange={(event) => setText(event.target.value)}
          />
        </label>
        <div>
          <span>What readers get</span>
          <pre className="scroll" tabIndex={0} aria-label="HTML that readers get">
            {trial.data?.html ?? ''}
          </pre>
        </div>
        <div>
          <span>As a page shows it</span>
          <iframe
            title="As a page shows it"
            sandbox=""
            srcDoc={`<!doctype html><meta name="color-scheme" content="light"><style>body{font:15px/1.5 Georgia,serif;margin:12px}img{max-width:100%;height:auto}table{border-collapse:collapse}td,th{border:1px solid #ccc;padding:3px 8px}</style>${trial.data?.html ?? ''}`}
          />
        </div>
        <div className="dropped" role="status">
          <span>Dropped</span>
          {trial.error ? <p className="failed">{trial.error.message}</p> : null}
          {trial.data?.dropped.length === 0 ? <p className="muted">Nothing: all of it may stand.</p> : null}
          <ul>
            {(trial.data?.dropped ?? []).map((one) => (
              <li key={one.what}>
                <code>{one.what}</code>
                {one.times > 1 ? <span className="muted"> {one.times} times</span> : null}
              </li>
            ))}
          </ul>
        </div>
      </div>
    </section>
  )
}
