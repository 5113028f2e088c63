/** Keys of a list: J and K select the next or previous row, N creates one, E edits and W walks the open one. */
import { useEffect } from 'react'
import { useNavigate } from 'react-router'

interface Keys {
  names: readonly string[]
  open: string | null
  choose(name: string): void
  create(): void
  /** Address of what is open; null if no route shows it. */
  address?: string | null
}

export function useListKeys({ names, open, choose, create, address = null }: Keys): void {
  const navigate = useNavigate()
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement
      if (event.ctrlKey || event.metaKey || event.altKey) return
      if (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) return
      const at = open === null ? -1 : names.indexOf(open)
      const step = { j: 1, k: -1 }[event.key]
      const next = step === undefined ? undefined : names[at === -1 ? 0 : at + step]
      if (next !== undefined) {
        event.preventDefault()
        choose(next)
        document.querySelector(`[data-id="${CSS.escape(next)}"]`)?.scrollIntoView({ block: 'nearest' })
      } else if (event.key === 'n') {
        event.preventDefault()
        create()
      } else if (event.key === 'w' && address !== null) {
        event.preventDefault()
        void navigate(`/walk?path=${encodeURIComponent(address)}&as=author`)
      } else if (event.key === 'e' && open !== null) {
        const editor = document.querySelector<HTMLElement>('.cm-content, .open-term input')
        if (!editor) return
        event.preventDefault()
        editor.focus()
      }
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [names, open, choose, create, address, navigate])
}
