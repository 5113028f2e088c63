/** Finds links on pages that lead nowhere. */
import { matchRoute } from '../../routing/addresses/match.ts'
import type { CompiledRoute } from '../../routing/addresses/compiled-route.ts'
import { crawl, type CrawledPage } from '../crawl.ts'
import type { Facts } from '../facts.ts'
import { finalStatus } from '../links.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { ownPath, pathOf } from '../page/addresses.ts'
import { readPage } from '../page/read-page.ts'
import { routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'
import { templatePath } from '../../shapes/documents.ts'

export const linkBroken: Rule = {
  id: 'link-broken',
  area: 'templates',
  meaning:
    'A link that a template builds has no address or no text, or leads to an address of this blog that does not exist.',
  why: 'Addresses that are put together by hand go wrong for some rows, or when a route changes.',
  async run(facts) {
    const { pages, linkedFrom, isComplete } = await crawl(facts)
    // Links that are written out are reported where they are written.
    const written = new Set((await facts.links()).map((one) => ownPath(one.href, '/')))
    const hidden = await behindOthers(facts)
    const findings: RuleFinding[] = []
    const tried = pages.filter((one) => one.path !== '/')
    for (const { path, status, route } of tried) {
      if (status < 400 || written.has(path)) continue
      // The route that should answer is a finding of its own.
      if (hidden.some(({ pattern }) => pattern.regexp.test(path.replace(/\?.*$/s, '')))) continue
      // A page that fails is a finding of its own.
      if (status >= 500 && route !== null) continue
      const from = linkedFrom.get(path) ?? '/'
      const page = pages.find((one) => one.path === from)
      const link =
        page?.links.find((one) => ownPath(one.href, from) === path) ??
        page?.links.find((one) => pathOf(one.href, from) === path)
      const template = routeOf(facts, page?.route ?? '')?.route.template
      // The route whose page has the link is its cause, so that it is one finding for all rows.
      const subject = `${page?.route ?? from} ${path.split('/')[1] ?? ''}`
      findings.push({
        subject,
        title: `${from} links to ${path}, which answers ${status}`,
        detail: `The link is “${(link?.text ?? '').trim()}”.`,
        affects: 'now',
        witness: witness(path, `${from} links to ${path}, which answers ${status}`, String(status), '200'),
        cause: 'A template builds the address. Use “url” with the name of the route.',
        place: template === undefined ? null : { document: templatePath(template), line: null },
        others: [],
        fixes: [],
      })
    }
    findings.push(
      ...linksToThisComputer(facts, pages),
      ...linksToNothing(facts, pages),
      ...linksWithoutText(facts, pages),
    )
    const onMissed = await brokenOnMissedPage(facts, linkedFrom)
    if (onMissed) findings.push(onMissed)
    return {
      findings,
      claim: isComplete
        ? {
            sentence: 'Every link that readers can follow from the home page has a target',
            tested: tried.length,
            things: ['address', 'addresses'],
          }
        : null,
    }
  },
}

const THIS_COMPUTER = /^(localhost|127\.\d+\.\d+\.\d+|\[::1\]|0\.0\.0\.0)$/

/** Returns links to the computer of whoever reads the page, which are left from developing. */
function linksToThisComputer(facts: Facts, pages: readonly CrawledPage[]): RuleFinding[] {
  const found = new Map<string, RuleFinding>()
  const { origin } = facts.definition.settings
  for (const page of pages)
    for (const href of [...page.links.map((one) => one.href), ...page.resources.map((one) => one.src)]) {
      const host = /^https?:\/\//i.test(href) && URL.canParse(href) ? new URL(href).hostname : ''
      if (!THIS_COMPUTER.test(host) || found.has(href) || (origin !== undefined && href.startsWith(origin)))
        continue
      found.set(href, {
        subject: `this computer ${href}`,
        title: `${page.path} refers to ${href}`,
        detail: `“${host}” is the computer of whoever reads the page.`,
        affects: 'now',
        witness: witness(page.path, `${page.path} refers to ${href}`, host, 'an address of the blog'),
        cause: 'The address was written out while developing. Use “url” with the name of the route.',
        place: placeInTemplates(facts, page.route, literally(href)),
        others: [],
        fixes: [],
      })
    }
  return [...found.values()]
}

/** Texts of links to the top of the page, in English. */
const TO_TOP = /\btop\b|\bup\b|[↑⇧▲]/i

/** Returns links without an address, and with nothing but “#”. */
function linksToNothing(facts: Facts, pages: readonly CrawledPage[]): RuleFinding[] {
  const found = new Map<string, RuleFinding>()
  const seen = new Set<string>()
  const isEnglish = /^en\b/i.test(facts.definition.settings.language ?? 'en')
  for (const page of pages)
    for (const { href, text } of page.links) {
      const address = href.trim()
      // “#” is the top of the page, to which a link may lead. Its text tells, in a language that is known here.
      const isScheme = /^(mailto|tel):$/i.test(address)
      if (address !== '' && !isScheme && (address !== '#' || !isEnglish || TO_TOP.test(text))) continue
      // The place of all links of a page without an address is the same.
      const key = `${page.route ?? page.path} ${address}`
      if (seen.has(key)) continue
      seen.add(key)
      const shown = text.trim()
      const place =
        address === '#'
          ? placeInTemplates(facts, page.route, /\bhref="#"/)
          : placeInTemplates(facts, page.route, /\bhref="(\{\{[^}]*\}\})?"/)
      const subject = `nothing ${place ? `${place.document}:${place.line ?? ''}` : `${page.route ?? ''} ${shown}`}`
      if (found.has(subject)) continue
      found.set(subject, {
        subject,
        title: `${page.path} has the link “${shown}”, which leads nowhere`,
        detail:
          address === ''
            ? 'A link without an address loads the same page again.'
            : 'It leads to the top of the page.',
        affects: 'now',
        witness: witness(page.path, `<a href="${address}">${shown}</a>`, `href="${address}"`, 'an address'),
        cause:
          address === ''
            ? 'The value of the address is empty. Print the link only if there is one.'
            : 'The address was left out. What is not a link is a <button>.',
        place,
        others: [],
        fixes: [],
      })
    }
  return [...found.values()]
}

/** Returns links that readers cannot see, and screen readers cannot name, once for each route that they lead to. */
function linksWithoutText(facts: Facts, pages: readonly CrawledPage[]): RuleFinding[] {
  const found = new Map<string, RuleFinding>()
  for (const page of pages)
    for (const { href, text, image, label, isHidden } of page.links) {
      if (isHidden || image !== '' || (text + label).trim() !== '') continue
      const target = pathOf(href, page.path)
      const match = target === undefined ? undefined : matchRoute(facts.definition.table, 'GET', target)
      const route = match?.outcome === 'matched' ? match.route.route.name : href
      const subject = `text ${page.route ?? ''} ${route}`
      if (found.has(subject)) continue
      found.set(subject, {
        subject,
        title: `${page.path} has a link without a text to ${href}`,
        detail: 'Nobody sees it, and screen readers read its address.',
        affects: 'now',
        witness: witness(page.path, `<a href="${href}"></a>`, 'no text', 'a text'),
        cause: 'The value that is printed in the link is empty, or is missing.',
        place: placeInTemplates(
          facts,
          page.route,
          new RegExp(`'${literally(route).source}'\\s*\\|\\s*url[^>]*>\\s*</a>`),
        ),
        others: [],
        fixes: [],
      })
    }
  return [...found.values()]
}

/** Returns a broken link of the 404 page, which no link leads to. */
async function brokenOnMissedPage(
  facts: Facts,
  linkedFrom: ReadonlyMap<string, string>,
): Promise<RuleFinding | undefined> {
  const known = (await facts.addresses()).known.find((one) => one.title !== null && /\w$/.test(one.path))
  if (!known) return undefined
  // Similar to an address that exists, so that the page has something to suggest.
  const missed = `${known.path}-x`
  // Other requests spare the work for suggestions.
  const page = await facts.page(missed)
  if (page.status !== 404) return undefined
  for (const { href, text } of readPage(page.body).links) {
    const target = ownPath(href, missed)
    if (target === undefined || linkedFrom.has(target)) continue
    const status = await finalStatus(facts, target)
    if (status < 400) continue
    const template = facts.definition.settings['not-found']?.template
    return {
      subject: 'the page of addresses that do not exist',
      title: `The page for addresses that do not exist links to ${target}, which answers ${status}`,
      detail: `The link is “${text.trim()}”.`,
      affects: 'now',
      witness: witness(
        missed,
        `${missed} links to ${target}, which answers ${status}`,
        String(status),
        '200',
      ),
      cause: 'A template builds the address. Each of “nearest” has a “path”.',
      place: template === undefined ? null : { document: templatePath(template), line: null },
      others: [],
      fixes: [],
    }
  }
  return undefined
}

/** Returns the routes that never answer, because earlier ones match their addresses. */
async function behindOthers(facts: Facts): Promise<CompiledRoute[]> {
  const { reach } = await facts.analysis()
  const taken = new Set(reach.filter((one) => one.outcome === 'taken').map((one) => one.name))
  return facts.definition.routes.filter(({ route }) => taken.has(route.name))
}
