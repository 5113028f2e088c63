/** Chooses a category, an author or tags by name. A name that does not exist yet can be created. */
import { Select } from 'antd'
import { useState } from 'react'
import type { TermKind } from '../../../../core/shapes/content-kinds.ts'
import { useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { words } from '../words.ts'

const text = words.posts

interface Known {
  slug: string
  name: string
  depth: number
}

interface Common {
  kind: TermKind
  known: readonly Known[] | undefined
}

type Props = Common &
  (
    | { isMultiple?: false; value: string | undefined; change(value: string | undefined): void }
    | { isMultiple: true; value: readonly string[]; change(value: string[]): void }
  )

/** Stands in the list for a new name. It cannot be a slug. */
const CREATE = '(create)'

export function TermChoice(props: Props) {
  const { kind, known = [], value } = props
  const write = useWrite()
  const notices = useNotices()
  const [typed, setTyped] = useState('')
  const name = typed.trim()
  const isNew = name !== '' && !known.some((one) => one.name.toLowerCase() === name.toLowerCase())
  const chosen = typeof value === 'string' ? [value] : [...(value ?? [])]
  const choose = (slugs: string[]) => {
    if (props.isMultiple) props.change(slugs)
    else props.change(slugs.at(-1))
  }
  const create = async () => {
    try {
      const { slug } = await write('POST /api/terms', { body: { kind, name } })
      choose([...chosen, slug])
      notices.done(text.termCreated(kind, name))
    } catch (error) {
      notices.failed(error)
    }
  }
  const onChange = (next: string | string[] | undefined) => {
    setTyped('')
    const slugs = next === undefined ? [] : typeof next === 'string' ? [next] : next
    if (slugs.includes(CREATE)) void create()
    else choose(slugs)
  }
  return (
    <Select<string | string[]>
      {...(props.isMultiple ? { mode: 'multiple' as const } : {})}
      allowClear
      placeholder={words.none}
      aria-label={{ category: text.category, author: text.author, tag: text.tags }[kind]}
      value={props.isMultiple ? chosen : (chosen[0] ?? (null as unknown as string))}
      notFoundContent={text.typeToCreate(kind)}
      showSearch={{
        searchValue: typed,
        onSearch: setTyped,
        filterOption: (search, option) =>
          option?.value === CREATE ||
          String(option?.label).toLowerCase().includes(search.trim().toLowerCase()),
      }}
      options={[
        ...known.map(({ slug, name: label, depth }) => ({
          value: slug,
          label: `${'— '.repeat(depth)}${label}`,
        })),
        ...(isNew ? [{ value: CREATE, label: text.createTerm(kind, name) }] : []),
      ]}
      onChange={onChange}
    />
  )
}
