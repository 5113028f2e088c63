import { expect, it } from 'vitest'
import { remembering } from './remember.ts'

it('computes once for each text, forgets what was not used for longest, and remembers no failure', () => {
  const computed: string[] = []
  const sizeOf = remembering((text: string, unit: string) => {
    computed.push(text)
    if (text === 'bad') throw new Error('bad')
    return { size: `${text.length} ${unit}` }
  }, 12)
  const first = sizeOf('kettle', 'letters')
  expect(first).toEqual({ size: '6 letters' })
  expect(sizeOf('kettle', 'letters')).toBe(first)
  for (let turn = 0; turn < 2; turn++) expect(() => sizeOf('bad', 'letters')).toThrow('bad')
  expect(computed).toEqual(['kettle', 'bad', 'bad'])
  sizeOf('teapot', 'letters')
  expect(sizeOf('kettle', 'letters')).not.toBe(first)
})
