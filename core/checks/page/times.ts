/** Reads dates. */
import type { PartReader } from './part.ts'
import type { PageTime, ReadPage } from './shape.ts'

export function readTimes(): PartReader<Pick<ReadPage, 'times'>> {
  const times: PageTime[] = []
  let time: PageTime | undefined
  let isUndated = false
  return {
    part: { times },
    open({ name, attributes }) {
      const { datetime } = attributes
      if (name !== 'time' && datetime === undefined) return
      times.push((time = { value: datetime ?? '', text: '' }))
      isUndated = datetime === undefined
    },
    text(text) {
      if (time) time.text += text
    },
    close(name) {
      if (time && isUndated) time.value = time.text.trim()
      if (name === 'time' || name === 'del' || name === 'ins') time = undefined
    },
  }
}
