// Which values of `datetime` can be read: the examples of the HTML standard, and others that it excludes.
import { expect, it } from 'vitest'
import { isReadableTime } from './time-unreadable.ts'

// https://html.spec.whatwg.org/multipage/text-level-semantics.html#datetime-value
it.each([
  ...['2011-11', '2011-11-18', '11-18', '14:54', '14:54:39', '14:54:39.929', '2011-11-18T14:54'],
  ...['2011-11-18 14:54:39.929', 'Z', '+0000', '-08:00', '2011-11-18T14:54Z', '2011-11-18T14:54:39+0000'],
  ...['2011-11-18 14:54:39.929-08:00', '2011-W47', '0001', 'PT4H18M3S', '4h 18m 3s', 'P2D'],
])('%s is readable', (text) => expect(isReadableTime(text)).toBe(true))

it.each([
  ...[
    '18 November 2011',
    '2011-13-01',
    '2011-1-8',
    '11/18/2011',
    '2011-11-18T25:00',
    '2011-W54',
    'P',
    'PT',
    '',
  ],
  ...['yesterday', '14:60', '2011-11-32'],
])('“%s” is not', (text) => expect(isReadableTime(text)).toBe(false))
