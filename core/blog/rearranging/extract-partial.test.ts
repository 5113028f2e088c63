// Moving a selection into a partial: the page stays the same, to the byte, and the arguments are those that it needs.
import { describe, expect, it } from 'vitest'
import { demo } from '../../testing/demo.ts'
import { analysedTemplates } from '../data-types.ts'
import { extractPartial } from './extract-partial.ts'
import { readDefinition } from '../read.ts'

const definitionOf = (documents: ReadonlyMap<string, string>) => {
  const read = readDefinition(documents)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}
const definition = definitionOf(demo)
const LISTING = 'templates/pages/listing.liquid'

/** Extracts what is between two parts of a document, both included. */
function extract(
  document: string,
  begin: string,
  end: string,
  change = (text: string) => text,
  name = 'piece',
) {
  const text = change(demo.get(document) ?? '')
  const from = text.indexOf(begin)
  const to = text.indexOf(end, from) + end.length
  if (from === -1 || to < from) throw new Error('not found')
  return extractPartial(definition, demo, { document, text, from, to, name })
}
function changesOf(outcome: ReturnType<typeof extract>) {
  if (!outcome.ok) throw new Error(JSON.stringify(outcome.problems))
  return {
    given: outcome.value.given,
    texts: new Map(outcome.value.changes.map((one) => [one.document, one.text])),
  }
}
const codeOf = (outcome: ReturnType<typeof extract>) => (outcome.ok ? '' : outcome.problems[0]?.code)

describe('extracting a partial', () => {
  it('passes what the selection reads, and nothing that it assigns or that partials see anyway', () => {
    const { given, texts } = changesOf(extract('templates/partials/card.liquid', '<h2>', '</h2>'))
    expect(given).toEqual(['post'])
    expect(texts.get('templates/partials/piece.liquid')).toBe(
      `<h2><a href="{{ 'post' | url: slug: post.slug }}">{{ post.title }}</a></h2>\n`,
    )
    expect(texts.get('templates/partials/card.liquid')).toContain(
      `    {% render 'partials/piece', post: post %}\n`,
    )
  })
  it('passes data of the page and variables of loops', () => {
    const { given } = changesOf(extract(LISTING, '{%- for post', '{%- endfor %}'))
    expect(given).toEqual(['posts'])
    expect(changesOf(extract(LISTING, "{% render 'partials/card'", '%}')).given).toEqual(['post'])
  })
  it('removes the indentation of the first line', () => {
    const { texts } = changesOf(extract(LISTING, '<h1', 'paged: posts %}\n  </main>'.split('\n')[0] ?? ''))
    expect(texts.get('templates/partials/piece.liquid')).toMatch(
      /^<h1 .*\n\{%- for post in posts.items %\}\n\{% render/,
    )
  })
  it('gives a definition without faults', () => {
    for (const [begin, end] of [
      ['<h1', '</h1>'],
      ['{%- for post', '{%- endfor %}'],
    ] as const) {
      const { texts } = changesOf(extract(LISTING, begin, end))
      const after = definitionOf(new Map([...demo, ...texts]))
      expect(analysedTemplates(after).faults).toEqual([])
    }
  })
  it.each<[string, () => ReturnType<typeof extract>]>([
    ['extract-part-of-tag', () => extract(LISTING, '{%- for post', '%}')],
    ['extract-block', () => extract(LISTING, '{% block title', '{% endblock %}')],
    ['extract-name-taken', () => extract(LISTING, '<h1', '</h1>', undefined, 'card')],
    ['extract-nothing', () => extract(LISTING, '\n', '\n')],
    [
      'extract-assigned',
      () =>
        extract(LISTING, '{% assign a', '%}', (text) =>
          text.replace('<h1', '{% assign a = heading %}<h1').replace('</h1>', '{{ a }}</h1>'),
        ),
    ],
  ])('is refused with %s', (code, run) => expect(codeOf(run())).toBe(code))
})
