// Faults in the use of filters: formats of dates, compared with liquidjs, and values that make a filter fail.
import { Liquid } from 'liquidjs'
import { describe, expect, it } from 'vitest'
import type { FilterCall } from '../tree.ts'
import { CONVERSIONS, filterFaults } from './filter-faults.ts'
import { DATE, HTML, listOf, NOTHING, row, TEXT, UNKNOWN, type Type } from './type.ts'

const place = { line: 1, column: 1 }
const call = (format: string): FilterCall => ({
  name: 'date',
  arguments: [{ name: null, value: { kind: 'literal', value: format, place } }],
})

const faultsOf = (filter: FilterCall, type: Type) =>
  filterFaults(filter, type, { place, subject: 'post.some' }).map(({ fault }) => fault.message)
const formatFaults = (format: string) => faultsOf(call(format), DATE)
const failures = (name: string, type: Type) =>
  filterFaults({ name, arguments: [] }, type, { place, subject: 'post.some' }).filter(
    (one) => one.kind === 'filter-fails',
  )

describe('a date format', () => {
  it('has the conversions of liquidjs, which prints others as they are', () => {
    const engine = new Liquid()
    const signs = [...'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz%+&*=@']
    const known = signs.filter((one) => {
      // Modifiers belong to the conversion that follows them.
      if (one === 'E' || one === 'O') return false
      const text = `%${one}`
      return engine.parseAndRenderSync(`{{ "2026-03-02T09:05:07Z" | date: "${text}" }}`) !== text
    })
    expect(known.sort().join('')).toBe([...CONVERSIONS].sort().join(''))
  })

  it.each([
    ['DD.MM.YYYY', 'the same text'],
    ['%H:%m', 'the month after the hour'],
    ['%-d %B %Y, %I:%m %p', 'the month after the hour'],
    ['%Y-%M-%d', 'the minute where a month belongs'],
    ['%d.%M.%Y', 'the minute where a month belongs'],
    ['%F', '“%F”'],
    ['%Q', '“%Q”'],
  ])('%s prints %s', (format, part) => expect(formatFaults(format)).toEqual([expect.stringContaining(part)]))

  it.each([
    '%-d %B %Y',
    '%H:%M',
    '%Y-%m-%dT%H:%M',
    '%H.%M, %-d.%m.%Y',
    '%m/%Y',
    '%^a %02d',
    'on %A',
    '100%% %Y',
    '',
  ])('%s is right', (format) => expect(formatFaults(format)).toEqual([]))
})

describe('a filter fails', () => {
  const post = row('post', {})
  it.each([
    ['raw', TEXT],
    ['raw', post],
    ['picture', TEXT],
    ['picture', post],
    ['structured_data', listOf(post)],
  ])('%s', (filter, type) => expect(failures(filter, type)).toHaveLength(1))
  it.each([
    ['raw', HTML],
    ['raw', UNKNOWN],
    ['raw', NOTHING],
    ['picture', row('image', {})],
    ['structured_data', post],
    ['structured_data', row('blog', {})],
    ['upcase', post],
  ])('but not %s of %o', (filter, type) => expect(failures(filter, type)).toEqual([]))
})

describe('a filter misreads', () => {
  const post = row('post', {})
  it.each([
    ['excerpt', post],
    ['truncate', listOf(post)],
    ['reading_minutes', TEXT],
  ])('%s of %o', (filter, type) =>
    expect(faultsOf({ name: filter, arguments: [] }, type)).toEqual([expect.stringContaining(filter)]),
  )
  it.each([
    ['excerpt', TEXT],
    ['excerpt', HTML],
    ['truncate', UNKNOWN],
    ['size', listOf(post)],
    ['json', post],
  ])('but not %s of %o', (filter, type) =>
    expect(faultsOf({ name: filter, arguments: [] }, type)).toEqual([]),
  )
})
