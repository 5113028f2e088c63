/** A picture that is shown and is not there. */
import { AddressIndex } from '../../routing/addresses/nearest.ts'
import type { Facts, Picture } from '../facts.ts'
import { groupBy, withLink } from '../links.ts'
import { witness, type Rule } from '../rule.ts'

export const imageMissing: Rule = {
  id: 'image-missing',
  area: 'content',
  meaning: 'A post, a page or a template shows a picture of this blog that is not there.',
  why: 'Readers see a broken picture, or only its words; a name was mistyped, or the image deleted.',
  async run(facts) {
    const pictures = await facts.pictures()
    const names = await facts.images()
    const images = new Set(names.map((name) => `/media/${name}`))
    const index = new AddressIndex([...images].map((path) => ({ path })))
    const bySource = groupBy(pictures, (one) => one.src.replace(/[?#].*$/s, ''))
    const findings = []
    for (const [src, uses] of bySource) {
      if (await isThere(facts, src, images)) continue
      findings.push(await finding(facts, index, src, uses))
    }
    return {
      findings,
      proven:
        bySource.size > 0
          ? { sentence: 'Every picture that is shown is there', count: `${bySource.size} pictures` }
          : null,
    }
  },
}

async function isThere(facts: Facts, src: string, images: ReadonlySet<string>): Promise<boolean> {
  if (src.startsWith('/media/')) return images.has(decodeURI(src))
  if (src.startsWith('/assets/')) return facts.definition.assets.has(src.slice('/assets/'.length))
  return (await facts.ask(src)).status === 200
}

async function finding(
  facts: Facts,
  index: AddressIndex<{ path: string }>,
  src: string,
  uses: readonly Picture[],
) {
  // Where a reader sees it is the better witness.
  const [first, ...others] = [...uses].sort((a, b) => Number(b.isPublic) - Number(a.isPublic))
  const document = first?.document ?? ''
  const text = await facts.document(document)
  const at = text?.indexOf(src) ?? -1
  const line = first?.line ?? (text === undefined || at === -1 ? null : text.slice(0, at).split('\n').length)
  const [near] = src.startsWith('/media/') ? index.mostAlike(src, 1) : []
  const mended = near && text !== undefined ? withLink(text, src, near.path) : undefined
  return {
    subject: src,
    title: `A picture in ${first?.where ?? 'a text'} is not there`,
    detail: `${src} answers 404.${near ? ` Nearest: ${near.path}.` : ''}`,
    affects: uses.some((one) => one.isPublic) ? ('now' as const) : ('possibly' as const),
    witness: witness(
      first?.path ?? null,
      `${document}${line === null ? '' : `:${line}`} shows ${src}`,
      '404',
      '200',
    ),
    because: 'No image has this name. Bring it in under Content, Images, or name another.',
    place: { document, line },
    also: others.map((one) => one.path ?? one.document),
    mends:
      near && mended !== undefined && mended !== text
        ? [
            {
              label: `Show ${near.path}`,
              changes: [{ document, text: mended }],
              slug: null,
              after: `The picture is ${near.path}.`,
            },
          ]
        : [],
  }
}
