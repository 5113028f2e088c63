/** What can be taken away or put back of a kind of content. */
import { Button, Dropdown, type DropdownProps } from 'antd'
import { useState } from 'react'
import type { QueryOf } from '../../../../contract/operations.ts'
import { Deleted } from './deleted.tsx'
import type { Kind } from './content-tabs.tsx'

type Items = NonNullable<NonNullable<DropdownProps['menu']>['items']>

interface Props {
  kind: QueryOf<'GET /api/deleted'>['kind']
  many: Kind
  items?: Items
}

export function FilesMenu({ kind, many, items = [] }: Props) {
  const [isBinOpen, setBinOpen] = useState(false)
  const all = [
    ...items,
    {
      key: 'csv',
      label: (
        <a href={`/api/${many}/export.csv`} download>
          The table as CSV
        </a>
      ),
    },
    { key: 'deleted', label: `Deleted ${many} …`, onClick: () => setBinOpen(true) },
  ]
  return (
    <>
      <Dropdown trigger={['click']} menu={{ items: all }}>
        <Button size="small">Files</Button>
      </Dropdown>
      {isBinOpen ? <Deleted kind={kind} close={() => setBinOpen(false)} /> : null}
    </>
  )
}
