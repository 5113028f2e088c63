// Reading comment forms.
import { describe, expect, it } from 'vitest'
import { sayIn } from '../messages/say.ts'
import { readComment } from './comment.ts'

const limits = { nameLength: 10, textLength: 20 }

describe('readComment', () => {
  it.each([
    [{ name: ' Ravi ', text: 'Thank you\r\nfor this' }, { name: 'Ravi', text: 'Thank you\nfor this' }, {}],
    [{ name: '', text: 'x' }, { name: '' }, { name: 'Enter a name to show with your comment.' }],
    [{ name: 'Ravi' }, { text: '' }, { text: 'The comment is empty.' }],
    [{ name: 'R'.repeat(11), text: 'x' }, {}, { name: 'The name has 11 characters; the maximum is 10.' }],
    [{ name: '🔧'.repeat(10), text: 'x' }, {}, {}],
    [{ name: 'a\u0000b\u0007', text: 'x' }, { name: 'ab' }, {}],
    [{ name: 'a', text: 'x', once: 'not-a-uuid' }, { once: null }, {}],
  ])('%j', (fields, draft, errors) => {
    const read = readComment(fields, limits, sayIn())
    expect(read.draft).toMatchObject(draft)
    expect(read.errors).toEqual(errors)
  })
})
