/** Finds images that are shown but do not exist. */
import { AddressIndex } from '../../routing/addresses/nearest.ts'
import type { Facts, ShownImage } from '../facts.ts'
import { groupBy } from '../group-by.ts'
import { withLink } from '../links.ts'
import { lineOf, placeText, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

export const imageMissing: Rule = {
  id: 'image-missing',
  area: 'content',
  meaning: 'A post, page or template shows an image of this blog that does not exist.',
  why: 'Readers see a broken image or only its alt text, because a name was mistyped or the image was deleted.',
  async run(facts) {
    const shown = await facts.shownImages()
    const names = await facts.images()
    const images = new Set(names.map((name) => `/media/${name}`))
    const index = new AddressIndex([...images].map((path) => ({ path })))
    const bySource = groupBy(shown, (one) => one.src.replace(/[?#].*$/s, ''))
    const findings = []
    for (const [src, uses] of bySource) {
      if (await exists(facts, src, images)) continue
      findings.push(await describe(facts, index, src, uses))
    }
    return {
      findings,
      claim: {
        sentence: 'Every image shown by texts and templates exists',
        tested: bySource.size,
        things: ['image', 'images'],
      },
    }
  },
}

async function exists(facts: Facts, src: string, images: ReadonlySet<string>): Promise<boolean> {
  if (src.startsWith('/media/')) return images.has(decodeURI(src))
  if (src.startsWith('/assets/')) return facts.definition.assets.has(src.slice('/assets/'.length))
  return (await facts.request(src)).status === 200
}

async function describe(
  facts: Facts,
  index: AddressIndex<{ path: string }>,
  src: string,
  uses: readonly ShownImage[],
): Promise<RuleFinding> {
  // An address at which readers see the image is the better witness.
  const [first, ...others] = [...uses].sort((a, b) => Number(b.isPublic) - Number(a.isPublic))
  const document = first?.document ?? ''
  const text = await facts.document(document)
  const line = first?.line ?? lineOf(text, src)
  const [near] = src.startsWith('/media/') ? index.mostSimilar(src, 1) : []
  const fixed = near && text !== undefined ? withLink(text, src, near.path) : undefined
  return {
    subject: src,
    title: `An image in ${first?.where ?? 'a text'} does not exist`,
    detail: `${src} answers 404.${near ? ` The most similar image is ${near.path}.` : ''}`,
    affects: uses.some((one) => one.isPublic) ? 'now' : 'possibly',
    witness: witness(first?.path ?? null, `${placeText(document, line)} shows ${src}`, '404', '200'),
    cause: 'No image has this name. Upload it under Content, Images, or use another name.',
    place: { document, line },
    others: others.map((one) => one.path ?? one.document),
    fixes: saveFix(
      document,
      fixed === text ? undefined : fixed,
      `Show ${near?.path ?? ''}`,
      `${document} shows ${near?.path ?? ''}.`,
    ),
  }
}
