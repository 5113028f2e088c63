/** What queries and templates can use, with a search. It is loaded when it is opened. */
import { useState } from 'react'
import { reference } from '../../../core/blog/reference.ts'
import { SearchField } from '../../shared/search/search-field.tsx'
import { words } from './words.ts'

const text = words.reference
const SECTIONS = reference()

export function ReferenceTab() {
  const [sought, seek] = useState('')
  const wanted = sought.toLowerCase()
  const sections = SECTIONS.flatMap((section) => {
    const entries = section.entries.filter((one) =>
      `${section.title} ${one.name} ${one.type} ${one.text}`.toLowerCase().includes(wanted),
    )
    return entries.length === 0 ? [] : [{ ...section, entries }]
  })
  return (
    <>
      <div className="about muted">
        <SearchField label={text.search} value={sought} change={seek} />
      </div>
      {sections.length === 0 ? <p className="quiet small">{text.none(sought)}</p> : null}
      {sections.map(({ title, text: about, entries }) => (
        <table key={title} className="values reference">
          <caption>
            <b>{title}</b> <span className="muted">{about}</span>
          </caption>
          <tbody>
            {entries.map((one) => (
              <tr key={one.name}>
                <th scope="row">
                  <code>{one.name}</code>
                </th>
                <td className="muted">{one.type}</td>
                <td>{one.text}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </>
  )
}
