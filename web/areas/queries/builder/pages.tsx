/** The pages of a query: size, kind, parameter and total. */
import { InputNumber, Select } from 'antd'
import type { SetPart } from './choices.tsx'
import { words } from '../words.ts'
import { TypedText } from './typed-text.tsx'

const texts = words.builder

export function Pages({ pages, set }: { pages: Readonly<Record<string, unknown>>; set: SetPart }) {
  const isCursor = pages['by'] === 'cursor'
  const text = (key: string, usual: string) => (typeof pages[key] === 'string' ? pages[key] : usual)
  return (
    <>
      <InputNumber
        size="small"
        aria-label={texts.pageSize}
        min={1}
        max={100}
        value={typeof pages['size'] === 'number' ? pages['size'] : null}
        suffix={texts.perPage}
        onChange={(value) => set(['pages', 'size'], value ?? 1)}
      />
      <Select
        size="small"
        aria-label={texts.pagesBy}
        popupMatchSelectWidth={false}
        value={isCursor ? 'cursor' : 'number'}
        options={[
          { value: 'number', label: texts.byNumber },
          { value: 'cursor', label: texts.byCursor },
        ]}
        // With cursors, no page is beyond the last.
        onChange={(value: string) =>
          value === 'number'
            ? set(['pages', 'by'], undefined)
            : set(['pages', 'by'], value, [['pages', 'past-the-end'], undefined])
        }
      />
      <span className="muted">{texts.inParameter}</span>
      <TypedText
        className="mono parameter-name"
        label={texts.pageParameter}
        value={text('parameter', 'page')}
        offered={['page', 'from']}
        change={(value) => set(['pages', 'parameter'], value === '' ? undefined : value)}
      />
      <Select
        size="small"
        aria-label={texts.totals}
        popupMatchSelectWidth={false}
        value={text('count', isCursor ? 'none' : 'exact')}
        options={[
          ...(isCursor ? [{ value: 'none', label: texts.noTotal }] : []),
          { value: 'exact', label: texts.exact },
          { value: 'estimated', label: texts.estimated },
        ]}
        onChange={(value: string) =>
          set(['pages', 'count'], value === (isCursor ? 'none' : 'exact') ? undefined : value)
        }
      />
      {isCursor ? null : (
        <Select
          size="small"
          aria-label={texts.beyond}
          popupMatchSelectWidth={false}
          value={text('past-the-end', 'not-found')}
          options={[
            { value: 'not-found', label: texts.beyondNotFound },
            { value: 'last', label: texts.beyondLast },
            { value: 'empty', label: texts.beyondEmpty },
          ]}
          onChange={(value: string) =>
            set(['pages', 'past-the-end'], value === 'not-found' ? undefined : value)
          }
        />
      )}
    </>
  )
}
