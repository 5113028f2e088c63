/** Finds markup that the content security policy of its page blocks. */
import { assetPath, templatePath } from '../../shapes/documents.ts'
import { connectionsToOthers, externalAddresses } from '../asset-faults.ts'
import { blocksInline, blocksResource } from '../content-policy.ts'
import { crawl, type CrawledPage } from '../crawl.ts'
import type { Facts } from '../facts.ts'
import { ownPath } from '../page/addresses.ts'
import { lineAt, placeText, routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'

export const policyBlocks: Rule = {
  id: 'policy-blocks',
  area: 'templates',
  meaning: 'A page has styles, scripts or other resources that its content security policy blocks.',
  why: 'They have no effect in any browser, which is easily missed.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const findings: RuleFinding[] = []
    for (const page of pages)
      for (const { markup, what } of blockedOn(page)) {
        const { path, route } = page
        const subject = `${route ?? ''} ${markup}`
        findings.push({
          subject,
          title: `${path} has ${markup}, which is blocked`,
          detail: `The content security policy of the page blocks this ${what}.`,
          affects: 'now',
          witness: witness(path, `The page contains ${markup}`),
          cause: 'Move styles into a stylesheet and scripts into a file, and load them as assets.',
          place: placeOf(facts, route, markup),
          others: [],
          fixes: [],
        })
      }
    // The policy of a page applies to the stylesheets that it loads.
    const policy = pages.find((one) => one.policy !== null)?.policy ?? null
    for (const { asset, line, src, kind } of policy === null
      ? []
      : externalAddresses(facts.definition.assets)) {
      const document = assetPath(asset)
      if (policy === null || !blocksResource(policy, kind, src, false)) continue
      findings.push({
        subject: `${document} ${src}`,
        title: `${placeText(document, line)} loads ${src}, which is blocked`,
        detail: `The content security policy of pages blocks this ${kind}.`,
        affects: 'now',
        witness: witness(null, `${document} contains ${src}`),
        cause: 'Add the file to the assets of the blog, and load it from there.',
        place: { document, line },
        others: [],
        fixes: [],
      })
    }
    for (const { asset, line, address, call } of policy === null
      ? []
      : connectionsToOthers(facts.definition.assets, facts.definition.settings.origin)) {
      const document = assetPath(asset)
      if (policy === null || !blocksResource(policy, 'connection', address, false)) continue
      findings.push({
        subject: `${document} ${address}`,
        title: `${placeText(document, line)} calls “${call}” for ${address}, which is blocked`,
        detail: 'The content security policy of pages allows scripts to connect to the blog only.',
        affects: 'now',
        witness: witness(null, `${document} contains ${address}`),
        cause: 'Send the request to an address of the blog.',
        place: { document, line },
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim: isComplete
        ? {
            sentence: 'Nothing is blocked on pages that readers can reach from the home page',
            tested: pages.length,
            things: ['page', 'pages'],
          }
        : null,
    }
  },
}

function* blockedOn({
  policy,
  inline,
  resources,
  path,
  head,
}: CrawledPage): Generator<{ markup: string; what: string }> {
  if (policy === null) return
  if (head.base !== null && /(?:^|;)\s*base-uri 'none'/.test(policy))
    yield { markup: '<base', what: 'base address' }
  for (const { markup, kind } of inline) if (blocksInline(policy, kind)) yield { markup, what: kind }
  for (const { src, kind } of resources)
    if (blocksResource(policy, kind, src, ownPath(src, path) !== undefined)) yield { markup: src, what: kind }
}

/** Finds the first line of the page's templates with the start of the markup. */
function placeOf(facts: Facts, route: string | null, markup: string) {
  const template = routeOf(facts, route ?? '')?.route.template
  if (template === undefined) return null
  const attribute = /(style|on[a-z]+|href)="/.exec(markup)?.[1]
  const wanted = attribute === undefined ? markup.replace(/>$/, '') : `${attribute}="`
  for (const name of facts.definition.templates.closure(template)) {
    const text = facts.documents.get(templatePath(name)) ?? ''
    const at = text.toLowerCase().indexOf(wanted.toLowerCase())
    if (at !== -1) return { document: templatePath(name), line: lineAt(text, at) }
  }
  return null
}
