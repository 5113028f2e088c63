/** Chooses whether the text, its page or both are shown. */
import { Segmented } from 'antd'
import { words } from '../words.ts'

export type View = 'text' | 'both' | 'page'
const VIEWS: readonly View[] = ['text', 'both', 'page']

export const Views = ({ view, change }: { view: View; change(view: View): void }) => (
  <Segmented
    size="small"
    aria-label={words.view}
    options={VIEWS.map((value) => ({ value, label: words.views[value] }))}
    value={view}
    onChange={(next: View) => change(next)}
  />
)
