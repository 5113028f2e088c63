// Embeds: what is on the list is put in a frame, and nothing else is, whatever a text contains.
import fc from 'fast-check'
import { parseFragment, type DefaultTreeAdapterTypes } from 'parse5'
import { describe, expect, it } from 'vitest'
import { frameFor, originsOf, type Embed } from '../../shapes/embeds.ts'
import { pipelineOf, renderMarkdown } from './markdown.ts'

const FILM: Embed = {
  name: 'Film from films.example',
  address: 'https://films.example/watch?v=:film',
  frame: 'https://play.films.example/embed/:film',
}
const MAP: Embed = {
  name: 'Map',
  address: 'https://maps.example/:area/:place',
  frame: 'https://maps.example/frame?at=:place&in=:area',
  width: 400,
  height: 300,
}
const rules = { typed: true, without: new Set<string>(), embeds: [FILM, MAP] }
const render = (text: string) => renderMarkdown(text, { rules }).html

type Node = DefaultTreeAdapterTypes.Node
function* all(node: Node): Generator<Node> {
  yield node
  if ('childNodes' in node) for (const child of node.childNodes) yield* all(child)
}
const framesIn = (html: string): string[] =>
  [...all(parseFragment(html))].flatMap((node) =>
    node.nodeName === 'iframe' && 'attrs' in node
      ? [node.attrs.find((one) => one.name === 'src')?.value ?? '']
      : [],
  )

describe('an address on a line of its own', () => {
  it.each([
    ['https://films.example/watch?v=aB_9-z', 'https://play.films.example/embed/aB_9-z'],
    ['<https://films.example/watch?v=aB>', 'https://play.films.example/embed/aB'],
    [
      '[https://films.example/watch?v=aB](https://films.example/watch?v=aB)',
      'https://play.films.example/embed/aB',
    ],
    ['https://maps.example/cobble/lane', 'https://maps.example/frame?at=lane&in=cobble'],
  ])('%s is embedded', (text, frame) => {
    expect(framesIn(render(`Before.\n\n${text}\n\nAfter.`))).toEqual([frame])
  })
  it.each([
    'See https://films.example/watch?v=aB',
    '[The film](https://films.example/watch?v=aB)',
    'https://films.example/watch?v=a/b',
    'https://films.example/watch?v=aB&t=10',
    'https://films.example.evil.example/watch?v=aB',
    'http://films.example/watch?v=aB',
    'https://films.example/watch?v=',
    'https://other.example/watch?v=aB',
    '    https://films.example/watch?v=aB',
    '`https://films.example/watch?v=aB`',
    '<iframe src="https://play.films.example/embed/aB"></iframe>',
    '<p><a href="https://films.example/watch?v=aB">https://films.example/watch?v=zz</a></p>',
  ])('%s is not', (text) => {
    expect(framesIn(render(text))).toEqual([])
  })
  it('is a link that can be followed without the frame', () => {
    expect(render('https://films.example/watch?v=aB')).toContain(
      '<figcaption><a href="https://films.example/watch?v=aB" rel="noopener nofollow">films.example/watch?v=aB</a></figcaption>',
    )
  })
  it('is no part of the excerpt, and has its size', () => {
    expect(render('https://maps.example/cobble/lane')).toContain('width="400" height="300"')
  })
})

it('without a list, nothing is embedded', () => {
  expect(renderMarkdown('https://films.example/watch?v=aB').html).toBe(
    '<p>https://films.example/watch?v=aB</p>\n',
  )
})
it('another list is another pipeline, so texts are rendered again', () => {
  expect(pipelineOf(rules)).not.toBe(pipelineOf({ ...rules, embeds: [FILM] }))
  expect(pipelineOf({ ...rules, embeds: [] })).toBe(pipelineOf({ typed: true, without: new Set() }))
})
it('every frame of any text is of an origin of the list, and inert until it is opened', () => {
  const part = fc.constantFrom(
    'https://films.example/watch?v=',
    'aB',
    '"',
    '<',
    '>',
    '&',
    "'",
    '\n\n',
    '](',
    '[',
    ')',
    '<p>',
    '</p>',
    '<a href="',
    '">',
    '</a>',
    'javascript:alert(1)',
    'https://maps.example/a/b',
    '<iframe src="https://evil.example">',
    ' ',
  )
  fc.assert(
    fc.property(fc.array(part, { maxLength: 14 }), (parts) => {
      const html = render(parts.join(''))
      for (const frame of framesIn(html)) expect(originsOf(rules.embeds)).toContain(new URL(frame).origin)
      expect(html.match(/<iframe/g)?.length ?? 0).toBe(
        html.match(/<details><summary>[^<]*<\/summary><iframe/g)?.length ?? 0,
      )
    }),
    { numRuns: 2_000 },
  )
})
it('a value cannot leave its place', () => {
  fc.assert(
    fc.property(fc.string(), (value) => {
      const frame = frameFor(FILM, `https://films.example/watch?v=${value}`)
      if (frame !== undefined) expect(frame).toBe(`https://play.films.example/embed/${value}`)
      if (frame !== undefined) expect(value).toMatch(/^[A-Za-z0-9_-]+$/)
    }),
  )
})
