/** Says what was done, and offers to take it back. */
import { App, Button } from 'antd'
import { whyRefused } from '../words/why-refused.ts'

interface Options {
  /** Of notices with the same key, the last one stands. */
  key?: string
  /** How long it stands. */
  seconds?: number
}

/** @returns takes a notice away, so that nobody takes back what something newer builds on */
export function useWithdrawNotice() {
  const { notification } = App.useApp()
  return (key: string) => notification.destroy(key)
}

/** @returns tells; without `undo`, nothing can be taken back */
export function useUndoNotice() {
  const { message, notification } = App.useApp()
  return (
    title: string,
    undo?: () => Promise<void>,
    { key = `done ${Date.now()}`, seconds = undo ? 20 : 8 }: Options = {},
  ) => {
    const takeBack = async () => {
      notification.destroy(key)
      try {
        await undo?.()
        void message.success('As it was')
      } catch (error) {
        void message.error(whyRefused(error), 8)
      }
    }
    notification.success({
      key,
      title,
      duration: seconds,
      placement: 'bottomRight',
      ...(undo
        ? {
            actions: (
              <Button size="small" onClick={() => void takeBack()}>
                Undo
              </Button>
            ),
          }
        : {}),
    })
  }
}
