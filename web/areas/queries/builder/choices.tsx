/** How choices are offered: the value with its description. */
import './popups.css'
import type { QueryPart } from '../../../../core/blog/edit-query.ts'
import type { Choice } from '../../../../core/queries/authoring/choices.ts'

type Path = (string | number)[]

/** Sets a value at a place of the query; undefined removes it. Values that depend on it are set with it. */
export type SetPart = (
  path: Path,
  value: QueryPart | undefined,
  ...also: [path: Path, value: QueryPart | undefined][]
) => void

export const options = (choices: readonly Choice[]) =>
  choices.map(({ value, detail }) => ({ value, label: value, title: detail, detail }))

const withDetail = (option: { data: { value?: unknown; detail?: string } }) => (
  <span className="choice">
    <code>{String(option.data.value)}</code> <span className="muted">{option.data.detail}</span>
  </span>
)

/** A list of choices is as wide as its descriptions. */
export const WIDE = {
  popupMatchSelectWidth: false,
  optionRender: withDetail,
  classNames: { popup: { root: 'queries-popup' } },
} as const
