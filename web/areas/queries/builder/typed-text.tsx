/** A text field that shows the typed text until it loses focus, even if the stored value is formatted differently. */
import { AutoComplete } from 'antd'
import { useState } from 'react'

interface Props {
  /** The stored value. */
  value: string
  change(text: string): void
  label: string
  className?: string
  placeholder?: string
  offered: readonly string[]
}

export function TypedText({ value, change, label, className, placeholder, offered }: Props) {
  const [typed, setTyped] = useState<string | null>(null)
  return (
    <AutoComplete
      size="small"
      {...(className === undefined ? {} : { className })}
      {...(placeholder === undefined ? {} : { placeholder })}
      aria-label={label}
      value={typed ?? value}
      options={offered.map((one) => ({ value: one }))}
      popupMatchSelectWidth={false}
      onChange={(text: string) => {
        setTyped(text)
        change(text)
      }}
      onBlur={() => setTyped(null)}
    />
  )
}
