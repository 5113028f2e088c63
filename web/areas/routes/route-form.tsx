/** Edits a route with a form. The form changes the route's part of routes.yaml and keeps the rest as it is. */
import { Button, Checkbox, Input, Select } from 'antd'
import { useState } from 'react'
import { parse } from 'yaml'
import type { RouteSummary } from '../../../contract/routes.ts'
import { replaceRoute } from '../../../core/blog/edit.ts'
import {
  PARAMETER_TYPES,
  REDIRECT_STATUS,
  type ParameterType,
  type Route,
} from '../../../core/shapes/schemas.ts'
import { useRead } from '../../api/queries.ts'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { useSaveKey } from '../../shared/editor/use-unsaved.ts'
import { words as shared } from '../../shared/words/words.ts'
import { DataFields } from './data-fields.tsx'
import { words } from './words.ts'

const text = words.form

const FILE = 'routes.yaml'

interface Props {
  route: RouteSummary
  all: readonly RouteSummary[]
  onSaved(name: string): void
}

export function RouteForm({ route, all, onSaved }: Props) {
  const document = useRead('GET /api/document', { query: { path: FILE } })
  const yaml = document.data?.text
  const stored =
    yaml === undefined ? undefined : (parse(yaml) as Route[]).find((one) => one.name === route.name)
  if (!document.data || !stored) return <p className="quiet small">{text.loading}</p>
  return (
    <Fields
      key={document.data.version}
      document={document.data}
      stored={stored}
      all={all}
      onSaved={onSaved}
    />
  )
}

const NAME = /:([A-Za-z_$][\w$]*)/g
const namesIn = (path: string) =>
  [...path.replace(/\((?:[^()\\]|\\.)*\)/g, '').matchAll(NAME)].map((found) => found[1] ?? '')

interface FieldsProps {
  document: { text: string; version: number }
  stored: Route
  all: readonly RouteSummary[]
  onSaved(name: string): void
}

function Fields({ document, stored, all, onSaved }: FieldsProps) {
  const { apply } = useChanges()
  const [draft, setDraft] = useState<Route>(stored)
  const [isSaving, setSaving] = useState(false)
  const documents = useRead('GET /api/documents', {})
  const queries = useRead('GET /api/queries', {})
  const pages = (documents.data ?? []).flatMap(
    ({ path }) => /^templates\/(pages\/.+)\.liquid$/.exec(path)?.[1] ?? [],
  )
  const set = (changes: Partial<Route>) => setDraft({ ...draft, ...changes })
  /** Removes a part that is not needed any more. */
  const unset = (key: 'heading' | 'json') => {
    const rest = { ...draft }
    Reflect.deleteProperty(rest, key)
    setDraft(rest)
  }
  const isTaken = draft.name !== stored.name && all.some((one) => one.name === draft.name)
  const isChanged = JSON.stringify(draft) !== JSON.stringify(stored)
  const save = async () => {
    if (isTaken || !isChanged || isSaving) return
    setSaving(true)
    const route = finished(draft)
    const yaml = replaceRoute(document.text, stored.name, () => route)
    const isSaved =
      yaml !== undefined &&
      (await apply(
        [{ do: 'save-document', document: FILE, text: yaml, version: document.version }],
        text.saved(route.name),
      ))
    setSaving(false)
    if (isSaved) onSaved(route.name)
  }
  useSaveKey(() => void save())
  return (
    <form
      className="padded build"
      onSubmit={(event) => {
        event.preventDefault()
        void save()
      }}
    >
      <label>
        {text.name}
        <Input
          className="mono"
          value={draft.name}
          status={isTaken ? 'error' : ''}
          onChange={(event) => set({ name: event.target.value })}
        />
      </label>
      {isTaken ? <p className="failed">{text.nameTaken}</p> : null}
      <label>
        {text.path}
        <Input className="mono" value={draft.path} onChange={(event) => set({ path: event.target.value })} />
      </label>
      {namesIn(draft.path).map((name) => (
        <label key={name}>
          <span>
            {text.type} <code>:{name}</code>
          </span>
          <Select
            value={draft.params?.[name] ?? 'text'}
            options={PARAMETER_TYPES.map((value) => ({ value, label: value }))}
            onChange={(type: ParameterType) => set({ params: { ...draft.params, [name]: type } })}
          />
        </label>
      ))}
      {draft.redirect ? (
        <>
          <label>
            {text.target}
            <Input
              className="mono"
              value={draft.redirect.to}
              onChange={(event) => set({ redirect: { ...draft.redirect, to: event.target.value } })}
            />
          </label>
          <label>
            {text.status}
            <Select
              value={draft.redirect.status ?? 301}
              options={REDIRECT_STATUS.map((value) => ({ value, label: text.statuses[value] }))}
              onChange={(status) => set({ redirect: { to: draft.redirect?.to ?? '/', status } })}
            />
          </label>
        </>
      ) : null}
      {draft.template === undefined ? null : (
        <label>
          {text.template}
          <Select
            showSearch
            value={draft.template}
            options={pages.map((value) => ({ value, label: value }))}
            onChange={(template) => set({ template })}
          />
        </label>
      )}
      {draft.redirect && Object.keys(draft.data ?? {}).length === 0 ? null : (
        <DataFields
          data={draft.data ?? {}}
          available={[...namesIn(draft.path), ...Object.keys(draft.query ?? {})]}
          queries={queries.data ?? []}
          change={(data) => set({ data })}
        />
      )}
      {draft.template === undefined ? null : (
        <label>
          {text.heading}
          <Input
            value={draft.heading ?? ''}
            placeholder={text.noHeading}
            onChange={(event) =>
              event.target.value === '' ? unset('heading') : set({ heading: event.target.value })
            }
          />
        </label>
      )}
      {draft.template === undefined ? null : (
        <Checkbox
          checked={draft.json === true}
          onChange={(event) => (event.target.checked ? set({ json: true }) : unset('json'))}
        >
          {text.json}
        </Checkbox>
      )}
      <div className="row">
        <Button htmlType="submit" type="primary" loading={isSaving} disabled={isTaken || !isChanged}>
          {shared.save}
        </Button>
        <Button onClick={() => setDraft(stored)} disabled={!isChanged}>
          {text.reset}
        </Button>
      </div>
    </form>
  )
}

/** Removes parameters that the path does not have any more, and sorts the keys in the usual order. */
function finished({ params, data, ...rest }: Route): Route {
  const names = namesIn(rest.path)
  const used = Object.fromEntries(Object.entries(params ?? {}).filter(([name]) => names.includes(name)))
  return inOrder({
    ...rest,
    ...(Object.keys(used).length > 0 ? { params: used } : {}),
    ...(data && Object.keys(data).length > 0 ? { data } : {}),
  })
}

/** The usual order of keys. Others come last. */
const ORDER = [
  'name',
  'path',
  'params',
  'query',
  'heading',
  'data',
  'template',
  'json',
  'action',
  'then',
  'redirect',
]

function inOrder(route: Route): Route {
  const place = (key: string) => (ORDER.includes(key) ? ORDER.indexOf(key) : ORDER.length)
  const entries = Object.entries(route).filter(([, value]) => value !== undefined)
  return Object.fromEntries(entries.sort(([a], [b]) => place(a) - place(b))) as Route
}
