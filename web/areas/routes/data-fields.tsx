/** Edits the data of a route: a name and a query per row, and a field per parameter that the query needs. */
import { AutoComplete, Button, Input, Select } from 'antd'
import { useRef, type KeyboardEvent } from 'react'
import type { QuerySummary } from '../../../contract/queries.ts'
import type { DataEntry } from '../../../core/shapes/schemas.ts'
import { focusLater } from '../../shared/focus/focus.ts'
import {
  dataEntry,
  dataName,
  missingParameters,
  proposedQuery,
  queryOf,
  valuesOf,
  type RouteData,
} from './data-entry.ts'
import { words } from './words.ts'

const text = words.form

interface Props {
  data: RouteData
  /** Names of the address's parameters. */
  available: readonly string[]
  queries: readonly QuerySummary[]
  change(data: Record<string, DataEntry>): void
}

/** Enter in a field of a row completes the row. It does not save a form that is still being filled in. */
const keepOpen = (event: KeyboardEvent) => {
  if (event.key === 'Enter' && event.target instanceof HTMLInputElement) event.preventDefault()
}

export function DataFields({ data, available, queries, change }: Props) {
  const box = useRef<HTMLFieldSetElement>(null)
  const entries = Object.entries(data)
  const replace = (index: number, name: string, entry: DataEntry) =>
    change(Object.fromEntries(entries.map((one, at) => (at === index ? [name, entry] : one))))
  const proposed = proposedQuery(queries, data, available)
  const add = () => {
    if (!proposed) return
    change({ ...data, [dataName(proposed.name, data)]: proposed.name })
    focusLater(() => [...(box.current?.querySelectorAll<HTMLElement>('.entry .query input') ?? [])].at(-1))
  }
  const remove = (index: number) => {
    change(Object.fromEntries(entries.filter((_, at) => at !== index)))
    focusLater(() => box.current?.querySelector<HTMLElement>('.add'))
  }
  return (
    <fieldset ref={box} onKeyDown={keepOpen}>
      <legend>{text.data}</legend>
      {entries.map(([name, entry], index) => {
        const query = queries.find((one) => one.name === queryOf(entry))
        const missing = missingParameters(query, entry, available)
        return (
          <div key={index} className="entry">
            <div className="row">
              <Input
                size="small"
                className="mono"
                aria-label={text.dataName}
                value={name}
                onChange={(event) => replace(index, event.target.value, entry)}
              />
              <Select
                size="small"
                className="query"
                showSearch
                aria-label={text.query(name)}
                value={queryOf(entry)}
                options={queries.map((one) => ({ value: one.name, label: one.name }))}
                onChange={(next: string) => replace(index, name, keepValues(entry, next, queries))}
              />
              <Button size="small" type="text" aria-label={text.remove(name)} onClick={() => remove(index)}>
                ✕
              </Button>
            </div>
            {(query?.parameters ?? []).map((parameter) => (
              <label key={parameter.name} className="value">
                <code>:{parameter.name}</code>
                <AutoComplete
                  size="small"
                  aria-label={text.value(parameter.name, name)}
                  value={valuesOf(entry)[parameter.name] ?? ''}
                  status={missing.includes(parameter.name) ? 'error' : ''}
                  options={available.map((value) => ({ value }))}
                  placeholder={
                    available.includes(parameter.name)
                      ? text.fromAddress
                      : parameter.optional
                        ? text.optional
                        : text.required
                  }
                  onChange={(value: string) =>
                    replace(
                      index,
                      name,
                      dataEntry(queryOf(entry), { ...valuesOf(entry), [parameter.name]: value }),
                    )
                  }
                />
              </label>
            ))}
            {missing.map((one) => (
              <p key={one} className="failed">
                {text.missing(one)}
              </p>
            ))}
          </div>
        )
      })}
      <Button size="small" className="add" disabled={!proposed} onClick={add}>
        {text.addQuery}
      </Button>
    </fieldset>
  )
}

/** Returns an entry with another query, which keeps the values of the parameters that both have. */
function keepValues(entry: DataEntry, next: string, queries: readonly QuerySummary[]): DataEntry {
  const known = queries.find((one) => one.name === next)?.parameters.map((one) => one.name) ?? []
  const kept = Object.entries(valuesOf(entry)).filter(([name]) => known.includes(name))
  return dataEntry(next, Object.fromEntries(kept))
}
