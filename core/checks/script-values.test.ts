// Values in scripts that browsers do not know, by the Fetch standard, CSSOM View, Selectors, and the events of HTML.
import { expect, it } from 'vitest'
import { dataReads, wrongValues } from './script-values.ts'

it.each<[string, string, string | null]>([
  ["document.querySelector('[name=text')", '[name=text', null],
  ["document.querySelector('[name=text]s')", '[name=text]s', null],
  ["form.closest('.a, ')", '.a, ', null],
  ["form.addEventListener('sumbit', f)", 'sumbit', 'submit'],
  ["document.addEventListener('DOMContentLoadd', f)", 'DOMContentLoadd', 'DOMContentLoaded'],
  ["fetch('/a', { method: 'POSTs' })", 'POSTs', 'POST'],
  ["fetch('/a', { credentials: 'same-orgin' })", 'same-orgin', 'same-origin'],
  ["fetch('/a', { signals: one.signal })", 'signals', 'signal'],
  ["a?.scrollIntoView({ block: 'neaerst' })", 'neaerst', 'nearest'],
])('%s has the wrong value %s', (script, actual, expected) =>
  expect(wrongValues(script)).toEqual([expect.objectContaining({ actual, expected, line: 1 })]),
)

it.each([
  'document.querySelector(\'li:has(> .do .own), #a[data-b="c"]:not(.d)\')',
  "form.addEventListener('comment-added', f)",
  "form.addEventListener('pointerdown', f); a.addEventListener('input', f)",
  "fetch('/a', { method: 'POST', headers: { method: 'x' } })",
  "a.scrollIntoView({ block: 'nearest', behavior: 'smooth' }); b.scrollTo({ top: 0 })",
  'document.querySelector(`.${name}`)',
  'not a script',
])('%s has none', (script) => expect(wrongValues(script)).toEqual([]))

it('the data that a script reads, and does not set itself, is found', () => {
  const script = 'a.dataset.replyTo\nb.dataset.count = 1\nb.dataset.count\nc.dataset[name]\nd.data.x'
  expect(dataReads(script)).toEqual([{ attribute: 'data-reply-to', line: 1 }])
})
