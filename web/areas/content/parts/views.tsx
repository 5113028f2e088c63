/** How text and page are shown beside each other. */
import { Segmented } from 'antd'

export type View = 'text' | 'both' | 'page'
const VIEWS: { value: View; label: string }[] = [
  { value: 'text', label: 'Text' },
  { value: 'both', label: 'Both' },
  { value: 'page', label: 'Page' },
]

export const Views = ({ view, change }: { view: View; change(view: View): void }) => (
  <Segmented
    size="small"
    aria-label="What is shown"
    options={VIEWS}
    value={view}
    onChange={(next: View) => change(next)}
  />
)
