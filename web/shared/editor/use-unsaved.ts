/** Saving with Ctrl+S, and the browser's warning before unsaved changes are lost. */
import { useEffect, useEffectEvent } from 'react'

/** Saves with Ctrl+S, wherever the focus is. */
export function useSaveKey(save: () => void): void {
  const saveNow = useEffectEvent(save)
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 's') return
      event.preventDefault()
      saveNow()
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
}

export function useWarnBeforeLeaving(isChanged: boolean): void {
  useEffect(() => {
    if (!isChanged) return
    const warn = (event: BeforeUnloadEvent) => event.preventDefault()
    window.addEventListener('beforeunload', warn)
    return () => window.removeEventListener('beforeunload', warn)
  }, [isChanged])
}
