// Names that promise the newest rows.
import { expect, it } from 'vitest'
import { promisesNewest } from './order-wrong.ts'

it.each(['latest', 'latest-posts', 'recentComments', 'postsNewest', 'most_recent'])('%s does', (name) =>
  expect(promisesNewest(name)).toBe(true),
)
it.each(['posts', 'greatest-hits', 'recently', 'all-posts', 'frecent'])('%s does not', (name) =>
  expect(promisesNewest(name)).toBe(false),
)
