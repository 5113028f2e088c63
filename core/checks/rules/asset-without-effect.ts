/** Finds pages without styles on a blog that has some, scripts that are not run, and assets that nothing uses. */
import { assetPath } from '../../shapes/documents.ts'
import { crawl } from '../crawl.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'

export const assetWithoutEffect: Rule = {
  id: 'asset-without-effect',
  area: 'templates',
  meaning:
    'A page loads no stylesheet for screens although the blog has one, a script has a type that browsers do not run, or an asset is not used anywhere.',
  why: 'Readers see bare text, or what a script should do does not happen.',
  async run(facts) {
    const { pages } = await crawl(facts)
    const { assets } = facts.definition
    const findings: RuleFinding[] = []
    const shown = pages.filter(
      (one) => one.status === 200 && routeOf(facts, one.route ?? '')?.route.template !== undefined,
    )
    const sheet = [...assets.keys()].find((one) => one.endsWith('.css'))
    for (const { path, route, isStyled } of sheet === undefined ? [] : shown)
      if (!isStyled) {
        const place = placeInTemplates(facts, route, /<link\b[^>]*style|<head\b/)
        findings.push({
          subject: `unstyled ${place?.document ?? route ?? path}`,
          title: `${path} loads no stylesheet for screens`,
          detail: `The blog has ${assetPath(sheet ?? '')}.`,
          affects: 'now',
          witness: witness(path, `The head of ${path}`, 'no stylesheet', '<link rel="stylesheet" …>'),
          cause:
            'The link to the stylesheet is missing, has another “rel”, or is for print or narrow screens only.',
          place,
          others: [],
          fixes: [],
        })
      }
    for (const { path, route, idle } of shown)
      for (const { src, type } of idle) {
        const place = placeInTemplates(facts, route, literally(`type="${type}"`))
        findings.push({
          subject: `idle ${place?.document ?? route ?? path} ${type}`,
          title: `${path} loads ${src} as ${type}, which browsers do not run`,
          detail: 'Leave the type out, or write “module”.',
          affects: 'now',
          witness: witness(path, `The type of ${src}`, type, 'no type'),
          cause: 'The “type” of the script is that of something else.',
          place,
          others: [],
          fixes: [],
        })
      }
    for (const name of assets.keys()) {
      const document = assetPath(name)
      const isUsed = [...facts.documents].some(([path, text]) => path !== document && text.includes(name))
      const onPage = pages.some((page) => page.resources.some((one) => one.src.includes(name)))
      if (isUsed || onPage) continue
      findings.push({
        subject: document,
        title: `Nothing uses ${document}`,
        detail: 'No template, stylesheet or script mentions it, and no page loads it.',
        affects: 'possibly',
        witness: witness(null, `“${name}” is in no other document`),
        cause: 'It was left over, or the line that loads it was removed.',
        place: { document, line: null },
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim: {
        sentence:
          'Every visited page loads styles if the blog has a stylesheet, every script has a type that browsers run, and every asset is mentioned somewhere',
        tested: shown.length + assets.size,
        things: ['page or asset', 'pages and assets'],
      },
    }
  },
}
