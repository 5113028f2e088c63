/** How what may be chosen is offered: by its name, with what it is. */
import type { QueryPart } from '../../../../core/blog/edit-query.ts'
import type { Choice } from '../../../../core/queries/authoring/choices.ts'

type Path = (string | number)[]

/** Puts a value at a place of the query; undefined takes it away. What goes with it is changed at the same time. */
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

/** A list of choices is as wide as what it says. */
export const WIDE = { popupMatchSelectWidth: false, optionRender: withDetail } as const
