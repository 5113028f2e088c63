/** The menu for exports and deleted content of a kind. */
import { useDownload } from '../../../shared/changes/use-download.ts'
import { Button, Dropdown, type DropdownProps } from 'antd'
import { useState } from 'react'
import type { QueryOf } from '../../../../contract/operations.ts'
import { words } from '../words.ts'
import type { Kind } from './content-tabs.tsx'
import { Deleted } from './deleted.tsx'

type Items = NonNullable<NonNullable<DropdownProps['menu']>['items']>

interface Props {
  kind: QueryOf<'GET /api/deleted'>['kind']
  many: Kind
  items?: Items
}

export function FilesMenu({ kind, many, items = [] }: Props) {
  const [isDeletedOpen, setDeletedOpen] = useState(false)
  const save = useDownload()
  const all = [
    ...items,
    {
      key: 'csv',
      label: words.files.csv,
      onClick: () => save(`/api/${many}/export.csv`),
    },
    { key: 'deleted', label: words.files.deleted(many), onClick: () => setDeletedOpen(true) },
  ]
  return (
    <>
      <Dropdown trigger={['click']} menu={{ items: all }}>
        <Button size="small">{words.files.menu}</Button>
      </Dropdown>
      {isDeletedOpen ? <Deleted kind={kind} close={() => setDeletedOpen(false)} /> : null}
    </>
  )
}
