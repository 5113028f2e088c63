/** A route by form: the same document as YAML, one item of it. */
import { useQuery } from '@tanstack/react-query'
import { Checkbox, Button, Input, Select } from 'antd'
import { useState } from 'react'
import { parse } from 'yaml'
import { replaceRoute } from '../../../core/blog/edit.ts'
import {
  PARAMETER_TYPES,
  REDIRECT_STATUS,
  type DataEntry,
  type ParameterType,
  type Route,
} from '../../../core/shapes/schemas.ts'
import type { RouteSummary } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'
import { useApply } from '../../shared/changes/apply.ts'

interface Props {
  route: RouteSummary
  all: readonly RouteSummary[]
  saved(): void
}

export function RouteForm({ route, all, saved }: Props) {
  const document = useQuery({
    queryKey: ['document', 'routes.yaml'],
    queryFn: () => call('GET /api/document', { query: { path: 'routes.yaml' } }),
  })
  const text = document.data?.text
  const stored =
    text === undefined ? undefined : (parse(text) as Route[]).find((one) => one.name === route.name)
  if (text === undefined || !stored) return <p className="quiet small">Opening …</p>
  return <Fields key={text} text={text} stored={stored} all={all} saved={saved} />
}

const NAME = /:([A-Za-z_$][\w$]*)/g
const namesIn = (path: string) =>
  [...path.replace(/\((?:[^()\\]|\\.)*\)/g, '').matchAll(NAME)].map((found) => found[1] ?? '')

function Fields({
  text,
  stored,
  all,
  saved,
}: {
  text: string
  stored: Route
  all: readonly RouteSummary[]
  saved(): void
}) {
  const { save } = useApply()
  const [draft, setDraft] = useState<Route>(stored)
  const [saving, setSaving] = useState(false)
  const documents = useQuery({ queryKey: ['documents'], queryFn: () => call('GET /api/documents', {}) })
  const named = (kind: string, prefix: string, ending: string) =>
    (documents.data ?? [])
      .filter((one) => one.kind === kind && one.path.startsWith(prefix))
      .map((one) => one.path.slice(prefix.length, -ending.length))
  const set = (changes: Partial<Route>) => setDraft({ ...draft, ...changes })
  const isTaken = draft.name !== stored.name && all.some((one) => one.name === draft.name)
  const submit = async () => {
    setSaving(true)
    const { params, data, ...rest } = draft
    const names = namesIn(draft.path)
    const kept = Object.fromEntries(Object.entries(params ?? {}).filter(([name]) => names.includes(name)))
    const route: Route = {
      ...rest,
      ...(Object.keys(kept).length > 0 ? { params: kept } : {}),
      ...(data && Object.keys(data).length > 0 ? { data } : {}),
    }
    const changed = replaceRoute(text, stored.name, inOrder(route))
    if (changed !== undefined && (await save({ 'routes.yaml': changed }, `Route “${route.name}” is saved`)))
      saved()
    setSaving(false)
  }
  return (
    <form
      className="padded build"
      onSubmit={(event) => {
        event.preventDefault()
        void submit()
      }}
    >
      <label>
        Name
        <Input
          className="mono"
          value={draft.name}
          status={isTaken ? 'error' : ''}
          onChange={(event) => set({ name: event.target.value })}
        />
      </label>
      {isTaken ? <p className="failed">Another route has this name.</p> : null}
      <label>
        Path
        <Input className="mono" value={draft.path} onChange={(event) => set({ path: event.target.value })} />
      </label>
      {namesIn(draft.path).map((name) => (
        <label key={name}>
          <span>
            Type of <code>:{name}</code>
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
            Leads to
            <Input
              className="mono"
              value={draft.redirect.to}
              onChange={(event) => set({ redirect: { ...draft.redirect, to: event.target.value } })}
            />
          </label>
          <label>
            Status
            <Select
              value={draft.redirect.status ?? 301}
              options={REDIRECT_STATUS.map((value) => ({ value, label: STATUS_WORDS[value] }))}
              onChange={(status) => set({ redirect: { to: draft.redirect?.to ?? '/', status } })}
            />
          </label>
        </>
      ) : null}
      {draft.template === undefined ? null : (
        <label>
          Template
          <Select
            showSearch
            value={draft.template}
            options={named('template', 'templates/', '.liquid')
              .filter((one) => one.startsWith('pages/'))
              .map((value) => ({ value, label: value }))}
            onChange={(template) => set({ template })}
          />
        </label>
      )}
      {draft.redirect ? null : (
        <DataFields
          data={draft.data ?? {}}
          queries={named('query', 'queries/', '.yaml')}
          change={(data) => set({ data })}
        />
      )}
      {draft.template === undefined ? null : (
        <label>
          Heading
          <Input
            value={draft.heading ?? ''}
            placeholder="none"
            onChange={(event) => {
              const rest = { ...draft, heading: event.target.value }
              if (rest.heading === '') Reflect.deleteProperty(rest, 'heading')
              setDraft(rest)
            }}
          />
        </label>
      )}
      {draft.template === undefined ? null : (
        <Checkbox
          checked={draft.json === true}
          onChange={(event) => {
            const rest = { ...draft, json: true }
            if (!event.target.checked) Reflect.deleteProperty(rest, 'json')
            setDraft(rest)
          }}
        >
          Answer programs that ask for JSON
        </Checkbox>
      )}
      <div className="row">
        <Button
          htmlType="submit"
          type="primary"
          loading={saving}
          disabled={isTaken || JSON.stringify(draft) === JSON.stringify(stored)}
        >
          Save
        </Button>
        <Button onClick={() => setDraft(stored)} disabled={draft === stored}>
          As it was
        </Button>
      </div>
    </form>
  )
}

const STATUS_WORDS: Record<(typeof REDIRECT_STATUS)[number], string> = {
  301: '301, for good',
  302: '302, for now',
  307: '307, for now, forms too',
  308: '308, for good, forms too',
}

/** The order in which one writes a route; what the form does not know keeps its place at the end. */
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

interface DataProps {
  data: Readonly<Record<string, DataEntry>>
  queries: readonly string[]
  change(data: Record<string, DataEntry>): void
}

/** Value name → query; what a query is given beyond the address is edited as YAML. */
function DataFields({ data, queries, change }: DataProps) {
  const entries = Object.entries(data)
  const replace = (index: number, name: string, entry: DataEntry) =>
    change(Object.fromEntries(entries.map((one, at) => (at === index ? [name, entry] : one))))
  return (
    <fieldset>
      <legend>Data for the template</legend>
      {entries.map(([name, entry], index) => (
        <div key={index} className="row">
          <Input
            size="small"
            className="mono"
            aria-label="Name in the template"
            value={name}
            onChange={(event) => replace(index, event.target.value, entry)}
          />
          <Select
            size="small"
            showSearch
            aria-label={`Query for ${name}`}
            value={typeof entry === 'string' ? entry : entry.query}
            options={queries.map((value) => ({ value, label: value }))}
            onChange={(query: string) =>
              replace(index, name, typeof entry === 'string' ? query : { ...entry, query })
            }
          />
          <Button
            size="small"
            type="text"
            aria-label={`Take ${name} out`}
            onClick={() => change(Object.fromEntries(entries.filter((_, at) => at !== index)))}
          >
            ✕
          </Button>
        </div>
      ))}
      <Button
        size="small"
        disabled={queries.length === 0 || '' in data}
        onClick={() => change({ ...data, [freeName(data)]: queries[0] ?? '' })}
      >
        Add a query
      </Button>
    </fieldset>
  )
}

function freeName(data: Readonly<Record<string, DataEntry>>): string {
  for (let number = 1; ; number++) {
    const name = number === 1 ? 'more' : `more${number}`
    if (!Object.hasOwn(data, name)) return name
  }
}
