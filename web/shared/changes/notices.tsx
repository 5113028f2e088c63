/** Notices: every save looks the same, says what has changed, and offers to undo it where that is possible. */
import { App, Button } from 'antd'
import type { DroppedCopy } from '../../../contract/fields.ts'
import { errorText } from '../words/error-text.ts'
import { words } from '../words/words.ts'

interface Options {
  /** The copies that were dropped. */
  purged?: readonly DroppedCopy[]
}

/** How long notices stay, in seconds. */
const SHOWN = 8
const SHOWN_WITH_UNDO = 20

const CHANGE = 'change'

export interface Notices {
  /**
   * Reports a change, in place of an earlier one: only the last change can be undone here.
   * @param undo undoes it, and returns false if that was not wanted in the end
   */
  done(text: string, undo?: () => Promise<unknown>, options?: Options): void
  /** Reports an error. */
  failed(error: unknown): void
  /** Removes the notice of the last change, before another change that is based on it. */
  withdraw(): void
}

export function useNotices(): Notices {
  const { notification } = App.useApp()
  const failed = (error: unknown) =>
    notification.error({ title: errorText(error), duration: SHOWN, placement: 'bottomRight' })
  return {
    failed,
    withdraw: () => notification.destroy(CHANGE),
    done: (text, undo, { purged = [] } = {}) => {
      const undoNow = async () => {
        notification.destroy(CHANGE)
        try {
          if ((await undo?.()) === false) return
          notification.success({
            key: CHANGE,
            title: words.undone,
            duration: SHOWN,
            // Whoever works below it need not move the mouse away for it to go.
            pauseOnHover: false,
            placement: 'bottomRight',
          })
        } catch (error) {
          failed(error)
        }
      }
      notification.success({
        key: CHANGE,
        title: text,
        duration: undo ? SHOWN_WITH_UNDO : SHOWN,
        pauseOnHover: undo !== undefined,
        placement: 'bottomRight',
        ...(purged.length === 0 ? {} : { description: words.purged(purged) }),
        ...(undo
          ? {
              actions: (
                <Button size="small" onClick={() => void undoNow()}>
                  {words.undo}
                </Button>
              ),
            }
          : {}),
      })
    },
  }
}
