/** How rows are turned page by page. */
import { InputNumber, Select } from 'antd'
import type { SetPart } from './choices.tsx'
import { TypedText } from './typed-text.tsx'

export function Pages({ pages, set }: { pages: Readonly<Record<string, unknown>>; set: SetPart }) {
  const isCursor = pages['by'] === 'cursor'
  const text = (key: string, usual: string) => (typeof pages[key] === 'string' ? pages[key] : usual)
  return (
    <>
      <InputNumber
        size="small"
        aria-label="Rows on a page"
        min={1}
        max={100}
        value={typeof pages['size'] === 'number' ? pages['size'] : null}
        suffix="a page"
        onChange={(value) => set(['pages', 'size'], value ?? 1)}
      />
      <Select
        size="small"
        aria-label="How pages are turned"
        popupMatchSelectWidth={false}
        value={isCursor ? 'cursor' : 'number'}
        options={[
          { value: 'number', label: 'by number' },
          { value: 'cursor', label: 'by cursor' },
        ]}
        // By cursor, nobody can ask for a page past the end.
        onChange={(value: string) =>
          value === 'number'
            ? set(['pages', 'by'], undefined)
            : set(['pages', 'by'], value, [['pages', 'past-the-end'], undefined])
        }
      />
      <span className="muted">from</span>
      <TypedText
        className="mono parameter-name"
        label="Parameter of the query string"
        value={text('parameter', 'page')}
        offered={['page', 'from']}
        change={(value) => set(['pages', 'parameter'], value === '' ? undefined : value)}
      />
      <Select
        size="small"
        aria-label="How many there are"
        popupMatchSelectWidth={false}
        value={text('count', isCursor ? 'none' : 'exact')}
        options={[
          ...(isCursor ? [{ value: 'none', label: 'not counted' }] : []),
          { value: 'exact', label: 'counted' },
          { value: 'estimated', label: 'counted, or “about”' },
        ]}
        onChange={(value: string) =>
          set(['pages', 'count'], value === (isCursor ? 'none' : 'exact') ? undefined : value)
        }
      />
      {isCursor ? null : (
        <Select
          size="small"
          aria-label="A page past the end"
          popupMatchSelectWidth={false}
          value={text('past-the-end', 'not-found')}
          options={[
            { value: 'not-found', label: 'past the end: not found' },
            { value: 'last', label: 'past the end: the last page' },
            { value: 'empty', label: 'past the end: an empty page' },
          ]}
          onChange={(value: string) =>
            set(['pages', 'past-the-end'], value === 'not-found' ? undefined : value)
          }
        />
      )}
    </>
  )
}
