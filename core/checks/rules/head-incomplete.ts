/** Finds pages whose head lacks a description, a canonical address or a viewport, or says something wrong. */
import { templatePath } from '../../shapes/documents.ts'
import { crawl, type CrawledPage } from '../crawl.ts'
import type { Facts } from '../facts.ts'
import type { Finding, Fix } from '../finding.ts'
import { pagedPosts } from '../further-pages.ts'
import { groupBy } from '../group-by.ts'
import { placeInTemplates } from '../page-place.ts'
import { ownPath } from '../page/addresses.ts'
import { counted, isOfPost, routeOf, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

interface Fault {
  /** What is wrong, as a part of a sentence: “has no description”. */
  what: string
  why: string
  actual: string
  expected: string
  /** What the line of the template has that causes it. */
  near: RegExp
  /** Returns the corrected template. */
  correct?: (text: string) => string
  label: string
}

const VIEWPORT = /(<meta\b[^>]*\bname="viewport"[^>]*\bcontent=")[^"]*"/

const inHead = (line: string) => (text: string) =>
  text.includes('</head>') ? text.replace(/^([ \t]*)<\/head>/m, (end) => `  ${line}\n${end}`) : text

const CANONICAL = '<link rel="canonical" href="{{ request.canonical }}">'

export const headIncomplete: Rule = {
  id: 'head-incomplete',
  area: 'templates',
  meaning:
    'The head of a page has no description, canonical address, encoding or viewport, or its language, canonical address or title is wrong.',
  why: 'Search engines show the wrong text or page, phones show the page as on a desktop, and screen readers pronounce it wrongly.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const shown = pages.filter(
      (one) => one.status === 200 && routeOf(facts, one.route ?? '')?.route.template !== undefined,
    )
    const described = new Set(
      shown.flatMap((one) => ((one.head.description ?? '') === '' ? [] : [one.route])),
    )
    const posts = new Set(
      (await facts.addresses()).known.flatMap((one) => (isOfPost(facts, one.route) ? [one.path] : [])),
    )
    const parameters = new Map(
      facts.definition.routes.map((one) => {
        const take = pagedPosts(facts, one)?.take
        // A page by cursor may be the first one.
        return [one.route.name, take?.by === 'number' ? take.parameter : undefined]
      }),
    )
    const titles = new Map(shown.map((one) => [one.path, one.head.title.trim()]))
    const found = shown.flatMap((page) =>
      faultsOf(facts, page, {
        isDescribed: described.has(page.route),
        isForSearchEngines: page.path === '/' || posts.has(page.path),
        pageParameter: parameters.get(page.route ?? ''),
        titles,
      }).map((fault) => ({ page, fault })),
    )
    const sameTitle = sameTexts(shown, ({ head }) => head.title)
    const home = shown.find((one) => one.path === '/')?.head.description?.trim()
    // The description of the whole blog is a fallback, but posts have excerpts.
    const sameDescription = sameTexts(shown, ({ head }) => head.description ?? '').filter(
      (one) => one.text !== home || one.routes.some((route) => isOfPost(facts, route)),
    )
    const sameHeading = sameTexts(shown, ({ head }) => head.heading).filter(
      (one) => one.text !== facts.definition.settings.title,
    )
    return {
      findings: [
        ...[
          ...groupBy(
            found,
            (one) => `${one.fault.what} ${placeOf(facts, one.page, one.fault.near).document}`,
          ),
        ].flatMap(([subject, [first, ...others]]) =>
          first
            ? [
                findingOf(
                  facts,
                  subject,
                  first,
                  others.map((one) => one.page.path),
                ),
              ]
            : [],
        ),
        ...sameTitle.map((one) => sameTextFinding(facts, one, SAME_TITLE)),
        ...sameHeading.map((one) => sameTextFinding(facts, one, SAME_HEADING)),
        ...sameDescription.map((one) => sameTextFinding(facts, one, SAME_DESCRIPTION)),
      ],
      claim: isComplete
        ? {
            sentence:
              'Every page that readers can reach from the home page has its canonical address, an encoding, a viewport and an element for its description',
            tested: shown.length,
            things: ['page', 'pages'],
          }
        : null,
    }
  },
}

interface Known {
  /** Whether another page of the route has a description, so that this one only lacks the text for it. */
  isDescribed: boolean
  /** Whether it is the home page or a post. */
  isForSearchEngines: boolean
  /** The parameter of the pages of its list of posts; undefined without one. */
  pageParameter: string | undefined
  /** The title of each page, by its address. */
  titles: ReadonlyMap<string, string>
}

function faultsOf(
  { definition }: Facts,
  { head, path }: CrawledPage,
  { isDescribed, isForSearchEngines, pageParameter, titles }: Known,
): Fault[] {
  const faults: Fault[] = []
  const { language } = definition.settings
  if (head.description === null || (head.description.trim() === '' && !isDescribed))
    faults.push({
      what: head.description === null ? 'has no description' : 'has an empty description',
      why: 'Search engines then choose a passage from the page.',
      actual: 'no description',
      expected: '<meta name="description" content="…">',
      near: /name="description"|<head\b/,
      ...(head.description === null
        ? { correct: inHead('<meta name="description" content="{{ blog.tagline }}">') }
        : {}),
      label: 'Add a description',
    })
  if (head.viewport === null)
    faults.push({
      what: 'has no viewport',
      why: 'Phones then lay it out for the width of a desktop.',
      actual: 'no viewport',
      expected: '<meta name="viewport" …>',
      near: /<head\b/,
      correct: inHead('<meta name="viewport" content="width=device-width, initial-scale=1">'),
      label: 'Add the viewport',
    })
  else if (!isOfDevice(head.viewport))
    faults.push({
      what: 'has a viewport with a width or a scale of its own',
      why: 'Phones lay it out for that width, and show it too small or too large.',
      actual: head.viewport,
      expected: 'width=device-width, initial-scale=1',
      near: /name="viewport"/,
      correct: (text) => text.replace(VIEWPORT, '$1width=device-width, initial-scale=1"'),
      label: 'Use the width of the device',
    })
  else if (/\buser-scalable\s*=\s*(no|0)\b|\bmaximum-scale\s*=\s*[01](\.\d+)?\b/.test(head.viewport))
    faults.push({
      what: 'cannot be zoomed',
      // WCAG 2.2, 1.4.4 Resize Text.
      why: 'Readers with low vision cannot enlarge the text on phones.',
      actual: head.viewport,
      expected: 'width=device-width, initial-scale=1',
      near: /name="viewport"/,
      correct: (text) => text.replace(VIEWPORT, '$1width=device-width, initial-scale=1"'),
      label: 'Allow zooming',
    })
  if (/\b(noindex|none)\b/i.test(head.robots) && isForSearchEngines)
    faults.push({
      what: 'asks search engines to leave it out',
      why: 'It is in the sitemap, or is the home page.',
      actual: head.robots,
      expected: 'no such request',
      near: /name="robots"/,
      label: '',
    })
  if (!head.namesEncoding)
    faults.push({
      what: 'does not name its encoding',
      why: 'The header of the response has it, but a page that a reader saves does not.',
      actual: 'no encoding',
      expected: '<meta charset="utf-8">',
      near: /<head\b/,
      correct: (text) => text.replace(/<head\b[^>]*>/, (start) => `${start}\n  <meta charset="utf-8">`),
      label: 'Name the encoding',
    })
  if (head.canonical === null)
    faults.push({
      what: 'has no canonical address',
      why: 'The same page with other parameters counts as another page for search engines.',
      actual: 'no canonical address',
      expected: CANONICAL,
      near: /<head\b/,
      correct: inHead(`{% if request.route != 'not-found' %}${CANONICAL}{% endif %}`),
      label: 'Add the canonical address',
    })
  else if (
    canonicalPath(head.canonical, definition.settings.origin) !== bare(path) ||
    addsParameter(head.canonical, path)
  )
    faults.push({
      what: 'names another page as its canonical address',
      why: 'Search engines then leave this page out.',
      actual: head.canonical,
      expected: bare(path),
      near: /rel="canonical"/,
      correct: (text) =>
        text.replace(/(<link\b[^>]*\brel="canonical"[^>]*\bhref=")[^"]*"/, '$1{{ request.canonical }}"'),
      label: 'Use the address of the page',
    })
  else if (
    pageParameter !== undefined &&
    new URLSearchParams(path.split('?')[1]).has(pageParameter) &&
    !new URLSearchParams(head.canonical.split('?')[1]).has(pageParameter)
  )
    faults.push({
      what: 'names the first page of the list as its canonical address',
      why: 'Search engines then leave the other pages out, and find fewer posts.',
      actual: head.canonical,
      expected: path,
      near: /rel="canonical"/,
      correct: (text) =>
        text.replace(/(<link\b[^>]*\brel="canonical"[^>]*\bhref=")[^"]*"/, '$1{{ request.canonical }}"'),
      label: 'Use the address of the page',
    })
  const title = head.title.trim()
  if (pageParameter !== undefined && title !== '' && titles.get(firstPageOf(path, pageParameter)) === title)
    faults.push({
      what: 'has the title of the first page of its list',
      why: 'Tabs, bookmarks and search results cannot be told apart.',
      actual: title,
      expected: `${title}, page 2`,
      near: /block title\b|<title\b/,
      label: '',
    })
  const url = head.shared.get('og:url')
  if (url !== undefined && canonicalPath(url, definition.settings.origin) !== bare(path))
    faults.push({
      what: 'is shared with the address of another page',
      why: 'Other sites show a link to the page that og:url names.',
      actual: url === '' ? 'an empty og:url' : url,
      expected: bare(path),
      near: /property="og:url"/,
      correct: (text) =>
        text.replace(/(<meta\b[^>]*\bproperty="og:url"[^>]*\bcontent=")[^"]*"/, '$1{{ request.canonical }}"'),
      label: 'Use the address of the page',
    })
  for (const name of ['og:title', 'og:image'])
    if (head.shared.get(name)?.trim() === '')
      faults.push({
        what: `has an empty ${name}`,
        why: 'Other sites show nothing there.',
        actual: `${name} without a value`,
        expected: `a value, or no ${name}`,
        near: new RegExp(`property="${name}"`),
        label: '',
      })
  if (head.language !== null && language !== undefined && subtag(head.language) !== subtag(language))
    faults.push({
      what: `says that its language is “${head.language}”`,
      why: `blog.yaml has “language: ${language}”. Screen readers pronounce the page in the language of <html lang>.`,
      actual: head.language,
      expected: language,
      near: /<html\b/,
      correct: (text) =>
        text.replace(/(<html\b[^>]*?\slang=)("[^"]*"|'[^']*'|[^\s>]+)/, '$1"{{ blog.language }}"'),
      label: 'Use the language of the blog',
    })
  return faults
}

const subtag = (language: string) => language.toLowerCase().split('-')[0]
/** Whether an address has a parameter that the page does not have. */
const addsParameter = (canonical: string, path: string): boolean =>
  [...new URLSearchParams(canonical.split('?')[1]).keys()].some(
    (one) => !new URLSearchParams(path.split('?')[1]).has(one),
  )

/** Whether a viewport has the width of the device: it says so, or gives only a scale of 1 (CSS Viewport, appendix A). */
function isOfDevice(viewport: string): boolean {
  const [, width] = /\bwidth\s*=\s*([\w.-]+)/.exec(viewport) ?? []
  const [, scale] = /\binitial-scale\s*=\s*([\d.]+)/.exec(viewport) ?? []
  return (
    (scale === undefined || Number(scale) === 1) &&
    (width === 'device-width' || (width === undefined && scale !== undefined))
  )
}

/** Returns the address of the first page of a list; an empty text for the first page itself. */
function firstPageOf(address: string, parameter: string): string {
  const [path = '', query] = address.split('?')
  const search = new URLSearchParams(query)
  if (!search.has(parameter)) return ''
  search.delete(parameter)
  const rest = search.toString()
  return rest === '' ? path : `${path}?${rest}`
}

const bare = (path: string) => path.replace(/[?#].*$/s, '')

/** Returns the path of a canonical address; undefined if it is of another site. */
function canonicalPath(canonical: string, origin: string | undefined): string | undefined {
  const own =
    origin !== undefined && canonical.startsWith(origin) ? canonical.slice(origin.length) : canonical
  const path = ownPath(own === '' ? '/' : own, '/')
  return path === undefined ? undefined : bare(path)
}

/** Returns the line of a page's templates with what causes a fault, or the template of the page. */
const placeOf = (facts: Facts, page: CrawledPage, near: RegExp): NonNullable<Finding['place']> =>
  placeInTemplates(facts, page.route, near) ?? {
    document: templatePath(routeOf(facts, page.route ?? '')?.route.template ?? ''),
    line: null,
  }

function findingOf(
  facts: Facts,
  subject: string,
  { page, fault }: { page: CrawledPage; fault: Fault },
  others: readonly string[],
): RuleFinding {
  const place = placeOf(facts, page, fault.near)
  const { document } = place
  const text = facts.documents.get(document) ?? ''
  const corrected = fault.correct?.(text)
  return {
    subject,
    title: `${page.path} ${fault.what}`,
    detail: `${fault.why}${others.length === 0 ? '' : ` ${counted(others.length, 'more page')} ${others.length === 1 ? 'is' : 'are'} affected.`}`,
    affects: 'now',
    witness: witness(page.path, `The head of ${page.path}`, fault.actual, fault.expected),
    cause: `${document} writes the head of the page.`,
    place,
    others: [...others],
    fixes: fixOf(document, text, corrected, fault.label),
  }
}

const fixOf = (document: string, text: string, corrected: string | undefined, label: string): Fix[] =>
  saveFix(document, corrected === text ? undefined : corrected, label, 'The head of every page has it.')

interface SameText {
  text: string
  pages: readonly CrawledPage[]
  /** The routes of which all pages have it. */
  routes: readonly string[]
}

/** Returns pages that have the same title or description, where all pages of a route are among them. */
function sameTexts(pages: readonly CrawledPage[], textOf: (page: CrawledPage) => string): SameText[] {
  const firsts = pages.filter((one) => !one.path.includes('?') && textOf(one).trim() !== '')
  const byRoute = groupBy(firsts, (one) => one.route ?? '')
  return [...groupBy(firsts, (one) => textOf(one).trim())].flatMap(([text, same]) => {
    const number = groupBy(same, (one) => one.route ?? '')
    // Two rows may have the same name, which is a finding of its own; all of them do not.
    const routes = [...number].flatMap(([route, own]) =>
      own.length > 1 && own.length === byRoute.get(route)?.length ? [route] : [],
    )
    return routes.length > 0 ? [{ text, pages: same, routes }] : []
  })
}

interface SameWords {
  what: string
  detail: string
  near: RegExp
  element: string
}

const SAME_TITLE: SameWords = {
  what: 'title',
  detail: 'Tabs, bookmarks and search results cannot be told apart.',
  near: /<title\b/,
  element: '<title>',
}
const SAME_HEADING: SameWords = {
  what: 'heading',
  detail: 'Readers do not see which of them they are on.',
  near: /<h1\b/,
  element: '<h1>',
}
const SAME_DESCRIPTION: SameWords = {
  what: 'description',
  detail: 'Search results cannot be told apart by it.',
  near: /block description\b|name="description"/,
  element: 'description',
}

function sameTextFinding(
  facts: Facts,
  { text, pages }: SameText,
  { what, detail, near, element }: SameWords,
): RuleFinding {
  const [first, second] = pages as [CrawledPage, CrawledPage]
  const place = placeOf(facts, first, near)
  return {
    subject: `${what} ${text}`,
    title: `${counted(pages.length, 'page')} have the ${what} “${text}”`,
    detail,
    affects: 'now',
    witness: witness(first.path, `${second.path} has the same ${what}`, text, `a ${what} of its own`),
    cause: `The ${element} in ${place.document} contains nothing of the page.`,
    place,
    others: pages.slice(1).map((one) => one.path),
    fixes: [],
  }
}
