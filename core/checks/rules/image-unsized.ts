/** Finds images of the blog for which browsers reserve no room before they arrive. */
import { crawl } from '../crawl.ts'
import { placeInTemplates } from '../page-place.ts'
import { ownPath } from '../page/addresses.ts'
import { counted, witness, type Rule, type RuleFinding } from '../rule.ts'

const UNSIZED = /<img\b(?![^>]*\bwidth\s*=)/

export const imageUnsized: Rule = {
  id: 'image-unsized',
  area: 'templates',
  meaning: 'An image is shown without its width and height.',
  why: 'Browsers reserve no room for it, so the text moves when the image arrives.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const found = new Map<string, { finding: RuleFinding; images: Set<string> }>()
    let tested = 0
    for (const { path, route, status, unsized } of pages) {
      if (status !== 200) continue
      tested++
      for (const src of unsized) {
        if (ownPath(src, path)?.startsWith('/media/') !== true) continue
        const place = placeInTemplates(facts, route, UNSIZED)
        const subject = place ? `${place.document}:${place.line ?? ''}` : `${route ?? ''} ${src}`
        const known = found.get(subject)
        if (known) {
          known.images.add(src)
          continue
        }
        found.set(subject, {
          images: new Set([src]),
          finding: {
            subject,
            title: `${path} shows an image without its width and height`,
            detail: '',
            affects: 'now',
            witness: witness(path, `<img src="${src}">`, 'no width and height', 'width="…" height="…"'),
            cause: 'Print images with the filter “picture”, or with the width and height that images have.',
            place,
            others: [],
            fixes: [],
          },
        })
      }
    }
    return {
      findings: [...found.values()].map(({ finding, images }) => ({
        ...finding,
        detail: `${counted(images.size, 'image')} ${images.size === 1 ? 'is' : 'are'} shown like this.`,
      })),
      claim: isComplete
        ? {
            sentence: 'Every image of the blog is shown with its width and height',
            tested,
            things: ['page', 'pages'],
          }
        : null,
    }
  },
}
