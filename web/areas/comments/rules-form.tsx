/** The comment rules as a form, with the comment form as readers see it beside it. */
import { Button, Select, Switch } from 'antd'
import { useDeferredValue, useState } from 'react'
import { Link } from 'react-router'
import { commentRules } from '../../../core/comments/rules.ts'
import {
  COMMENT_FIELD_USE,
  COMMENT_NOTICES,
  COMMENT_ORDERS,
  COMMENT_SHOW,
  type CommentRules,
} from '../../../core/shapes/comment-rules.ts'
import { useRead, useWrite } from '../../api/queries.ts'
import { useInsist } from '../../shared/changes/insist.tsx'
import { useNotices } from '../../shared/changes/notices.tsx'
import { documentLink } from '../../shared/editor/documents.ts'
import { useSaveKey } from '../../shared/editor/use-unsaved.ts'
import { useSession } from '../../shared/frame/session.ts'
import { PageFrame } from '../../shared/page/page-frame.tsx'
import { Address, Choice, Count, Line, Span, type RulesProps } from './rule-fields.tsx'
import { OutsidePart } from './outside/outside-part.tsx'
import { words } from './rules-words.ts'

/** The width at which the post is shown, in pixels. */
const WIDTH = 720

const DAYS = ['1d', '7d', '14d', '30d', '60d', '90d', '180d', '365d']
const EDITABLE = ['0s', '5m', '15m', '30m', '1h', '1d']
const FILLED = ['0s', '2s', '3s', '5s', '10s']
const WITHIN = ['1m', '5m', '10m', '30m', '1h', '1d']

export function RulesForm({ close }: { close(): void }) {
  const stored = useRead('GET /api/comments/rules', {}, { staleTime: 0 })
  const [typed, setTyped] = useState<CommentRules | null>(null)
  const rules = typed ?? stored.data?.rules ?? {}
  const isChanged = typed !== null && JSON.stringify(typed) !== JSON.stringify(stored.data?.rules)
  const set = (changes: Partial<CommentRules>) => setTyped(withoutUndefined({ ...rules, ...changes }))
  const write = useWrite()
  const notices = useNotices()
  const insist = useInsist()
  const save = async () => {
    const { data } = stored
    if (!isChanged || !data) return
    try {
      const saved = await insist((more) =>
        write('PUT /api/comments/rules', { body: { version: data.version, rules, ...more } }),
      )
      if (!saved) return
      setTyped(null)
      const { step, purged } = saved
      notices.done(
        words.saved,
        step === null ? undefined : () => write('POST /api/step/undo', { body: { id: step } }),
        { purged },
      )
    } catch (error) {
      notices.failed(error)
    }
  }
  useSaveKey(() => void save())
  return (
    <main className="comments rules">
      <section className="pane" aria-label={words.title}>
        <header>
          <Button type="text" size="small" onClick={close}>
            ← {words.back}
          </Button>
          <h1>{words.title}</h1>
          <span className="grow" />
          {isChanged ? (
            <Button size="small" onClick={() => setTyped(null)}>
              {words.reset}
            </Button>
          ) : null}
          <Button size="small" type="primary" disabled={!isChanged} onClick={() => void save()}>
            {words.save}
          </Button>
        </header>
        <div className="scroll form">
          {/* Before they are loaded, the rules would look like the defaults. */}
          {stored.data ? (
            <Parts rules={rules} set={set} />
          ) : (
            <p className="quiet">{stored.error?.message ?? words.loading}</p>
          )}
        </div>
        <footer>
          <Link to={documentLink('blog.yaml')} className="link">
            {words.yaml}
          </Link>
          {(stored.data?.routes.length ?? 0) > 0 ? (
            <span className="muted">{words.ownRules(stored.data?.routes ?? [])}</span>
          ) : null}
        </footer>
      </section>
      <FormPreview rules={rules} />
    </main>
  )
}

/** Rules that are not declared are left out. */
const withoutUndefined = (rules: {
  [Key in keyof CommentRules]: CommentRules[Key] | undefined
}): CommentRules =>
  Object.fromEntries(Object.entries(rules).filter(([, value]) => value !== undefined)) as CommentRules

function Parts({ rules, set }: RulesProps) {
  const now = commentRules(rules)
  return (
    <>
      <OutsidePart rules={rules} set={set} />
      <fieldset>
        <legend>{words.who}</legend>
        <Line label={words.accept}>
          <Switch
            size="small"
            aria-label={words.accept}
            checked={now.accept}
            onChange={(accept) => set({ accept })}
          />
        </Line>
        {(['name', 'email', 'site'] as const).map((field) => (
          <Line key={field} label={words.fields[field]}>
            <Choice
              label={words.fields[field]}
              value={now.fields[field]}
              options={COMMENT_FIELD_USE.map((use) => [use, words.use[use]])}
              set={(use) => set({ fields: { ...rules.fields, [field]: use } })}
            />
          </Line>
        ))}
        <Line label={words.closesAfter}>
          <Span
            label={words.closesAfter}
            value={rules['closes-after']}
            options={DAYS}
            none={words.never}
            set={(value) => set({ 'closes-after': value })}
          />
        </Line>
      </fieldset>
      <fieldset>
        <legend>{words.when}</legend>
        <Choice
          label={words.when}
          value={now.show}
          options={COMMENT_SHOW.map((one) => [one, words.show[one]])}
          set={(show) => set({ show })}
        />
        <Line label={words.editableFor}>
          <Span
            label={words.editableFor}
            value={rules['editable-for'] ?? '15m'}
            options={EDITABLE}
            set={(value) => set({ 'editable-for': value })}
          />
        </Line>
      </fieldset>
      <fieldset>
        <legend>{words.how}</legend>
        <Line label={words.orderLabel}>
          <Choice
            label={words.orderLabel}
            value={now.order}
            options={COMMENT_ORDERS.map((one) => [one, words.order[one]])}
            set={(order) => set({ order })}
          />
        </Line>
        <Count label={words.depth} value={now.depth} max={5} set={(depth) => set({ depth })} />
        <Count
          label={words.pageSize}
          value={now.pageSize}
          min={1}
          max={100}
          set={(value) => set({ 'page-size': value })}
        />
        <Count
          label={words.nameLength}
          value={now.nameLength}
          min={1}
          max={200}
          set={(value) => set({ 'name-length': value })}
        />
        <Count
          label={words.textLength}
          value={now.textLength}
          min={1}
          max={20_000}
          set={(value) => set({ 'text-length': value })}
        />
      </fieldset>
      <fieldset>
        <legend>{words.limits}</legend>
        <Count label={words.links} value={now.links} max={20} set={(links) => set({ links })} />
        <Line label={words.fillTime}>
          <Span
            label={words.fillTime}
            value={rules['fill-time'] ?? '3s'}
            options={FILLED}
            set={(value) => set({ 'fill-time': value })}
          />
        </Line>
        <Line label={words.honeypot}>
          <Switch
            size="small"
            aria-label={words.honeypot}
            checked={now.honeypot}
            onChange={(honeypot) => set({ honeypot })}
          />
        </Line>
        <Line label={words.blockedWords}>
          <Select
            size="small"
            mode="tags"
            open={false}
            suffixIcon={null}
            aria-label={words.blockedWords}
            placeholder={words.none}
            tokenSeparators={[',']}
            value={[...now.blockedWords]}
            onChange={(value: string[]) => {
              const wanted = value.map((one) => one.trim()).filter((one) => one.length >= 2)
              set({ 'blocked-words': wanted.length === 0 ? undefined : wanted })
            }}
          />
        </Line>
        <Count
          label={words.perAddress}
          value={now.rate.perAddress}
          min={1}
          max={10_000}
          set={(value) => set({ rate: { ...rules.rate, 'per-address': value } })}
        />
        <Count
          label={words.perPost}
          value={now.rate.perPost}
          min={1}
          max={100_000}
          set={(value) => set({ rate: { ...rules.rate, 'per-post': value } })}
        />
        <Line label={words.within}>
          <Span
            label={words.within}
            value={rules.rate?.within ?? '10m'}
            options={WITHIN}
            set={(value) =>
              set({ rate: { ...rules.rate, ...(value === undefined ? {} : { within: value }) } })
            }
          />
        </Line>
      </fieldset>
      <fieldset>
        <legend>{words.notify}</legend>
        <Address
          label={words.notifyAuthor}
          value={rules.notify?.author}
          placeholder={words.nobody}
          set={(author) => set({ notify: withoutEmpty({ ...rules.notify, author }) })}
        />
        <Line label={words.about}>
          <Choice
            label={words.about}
            value={now.notify.about}
            options={COMMENT_NOTICES.map((one) => [one, words.notices[one]])}
            set={(about) => set({ notify: { ...rules.notify, about } })}
          />
        </Line>
        <Line label={words.replies}>
          <Switch
            size="small"
            aria-label={words.replies}
            checked={now.notify.replies}
            onChange={(replies) => set({ notify: { ...rules.notify, replies } })}
          />
        </Line>
        {now.notify.replies && now.fields.email === 'off' ? <p className="warn">{words.noAddress}</p> : null}
        <Address
          label={words.sender}
          value={rules.notify?.from}
          placeholder={words.ownHost}
          set={(from) => set({ notify: withoutEmpty({ ...rules.notify, from }) })}
        />
      </fieldset>
    </>
  )
}

type Notify = NonNullable<CommentRules['notify']>

/** Returns undefined for no notifications at all, so that nothing empty is declared. */
function withoutEmpty(notify: { [Key in keyof Notify]: Notify[Key] | undefined }): Notify | undefined {
  const declared = Object.entries(notify).filter(([, value]) => value !== undefined)
  return declared.length === 0 ? undefined : (Object.fromEntries(declared) as Notify)
}

function FormPreview({ rules }: { rules: CommentRules }) {
  const [isSent, setSent] = useState(false)
  const wanted = useDeferredValue(rules)
  const session = useSession()
  const page = useRead(
    'POST /api/comments/rules/preview',
    { body: { rules: wanted, isSent } },
    { placeholderData: (known) => known, staleTime: 0 },
  )
  const { path, html, policy } = page.data ?? { path: null, html: '', policy: null }
  return (
    <section className="pane thread" aria-label={words.form}>
      <header>
        <b>{words.form}</b>
        <span className="grow" />
        <label className="inline">
          <Switch size="small" checked={isSent} onChange={setSent} /> {words.sent}
        </label>
      </header>
      {path !== null && session.data ? (
        <PageFrame
          html={html}
          address={session.data.blog.replace(/\/$/, '') + path}
          policy={policy ?? ''}
          width={WIDTH}
          title={words.form}
          show="say"
        />
      ) : (
        <p className="quiet">{page.error ? page.error.message : page.data ? words.noForm : ''}</p>
      )}
    </section>
  )
}
