/** Changes the rule of a route's pages, or of a fragment, in cache.yaml. */
import { AutoComplete, Modal, Select } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import { withFragmentRule, withPageRule } from '../../../core/caching/edit-rules.ts'
import { REFRESH_MODES, type PageRule, type RefreshMode } from '../../../core/shapes/cache-rules.ts'
import type { RuleItem } from '../../../contract/cache.ts'
import { documentLink } from '../../shared/editor/documents.ts'
import { durationText } from '../../shared/words/duration-text.ts'
import { useRule } from './use-rule.ts'
import { words } from './words.ts'

const text = words.rule
const LIFETIMES = ['10s', '60s', '5m', '15m', '1h', '1d', '7d']

export function RuleEditor({ rule, close }: { rule: RuleItem; close(): void }) {
  const isPage = rule.kind === 'page'
  const change = useRule()
  const [refresh, setRefresh] = useState<RefreshMode>(rule.refresh)
  const [lifetime, setLifetime] = useState(
    durationText(rule.refresh === 'on-change' ? 3_600_000 : rule.lifetime),
  )
  const [whileRevalidate, setWhile] = useState(durationText(rule.staleWhileRevalidate))
  const [ifError, setIfError] = useState(durationText(rule.staleIfError))
  const save = async () => {
    const page: PageRule | undefined =
      refresh === 'on-change'
        ? undefined
        : {
            refresh,
            lifetime,
            ...(whileRevalidate === '0s' ? {} : { 'stale-while-revalidate': whileRevalidate }),
            ...(ifError === '0s' ? {} : { 'stale-if-error': ifError }),
          }
    const isSaved = await change(
      (document) =>
        isPage ? withPageRule(document, rule.name, page) : withFragmentRule(document, rule.name, refresh),
      text.saved(rule.name),
    )
    if (isSaved) close()
  }
  return (
    <Modal
      open
      title={text.title(rule.name, rule.kind)}
      okText={text.save}
      cancelText={text.cancel}
      onOk={save}
      onCancel={close}
      destroyOnHidden
    >
      <div className="cache-rule">
        <label htmlFor="rule-refresh">{text.refresh}</label>
        <Select
          id="rule-refresh"
          value={refresh}
          onChange={setRefresh}
          options={REFRESH_MODES.map((value) => ({ value, label: text.modes[value] }))}
        />
        <p className="muted">{text.help[refresh]}</p>
        {isPage && refresh !== 'on-change' ? (
          <>
            <Time id="rule-lifetime" label={text.lifetime} value={lifetime} set={setLifetime} />
            <Time
              id="rule-while"
              label={text.whileRevalidate}
              value={whileRevalidate}
              set={setWhile}
              canBeNone
            />
            <Time id="rule-error" label={text.ifError} value={ifError} set={setIfError} canBeNone />
          </>
        ) : null}
        {isPage ? null : (
          <p className="muted">
            {text.inTag} <Link to={documentLink(rule.document, rule.line)}>{text.openTag}</Link>
          </p>
        )}
      </div>
    </Modal>
  )
}

function Time({
  id,
  label,
  value,
  set,
  canBeNone = false,
}: {
  id: string
  label: string
  value: string
  set(value: string): void
  canBeNone?: boolean
}) {
  const values = canBeNone ? ['0s', ...LIFETIMES] : LIFETIMES
  return (
    <>
      <label htmlFor={id}>{label}</label>
      <AutoComplete
        id={id}
        value={value}
        onChange={set}
        options={values.map((one) => ({ value: one, label: one === '0s' ? text.none : one }))}
      />
    </>
  )
}
