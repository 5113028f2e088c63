/**
 * Opens pages of the blog in headless Chromium. The blog answers every request of the browser itself: nothing reaches a
 * network.
 */
import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import type { AxeResults, NodeResult, RunOptions } from 'axe-core'
import type { Browser, Page, Route } from 'playwright-core'
import { tagOf } from '../../core/checks/browser-rule.ts'
import type { BrowserFault } from '../../core/checks/facts.ts'
import { answer, type AnswerPorts } from '../reader/answer.ts'
import { fileResponse } from '../reader/listener.ts'
import type { ImagesPort } from '../reader/ports.ts'
import { internalRequest } from '../reader/request.ts'
import { CHROMIUM_FLAGS } from './chromium.ts'

const load = createRequire(import.meta.url)
type Scheme = 'light' | 'dark'

/** The origin of the pages. No such host exists. */
const ORIGIN = 'http://blog.invalid'
/** How long opening a page or starting the browser may take, in milliseconds. */
const LONGEST = 20_000
/** The viewport in pixels, and the width at which nothing may scroll sideways (WCAG 2.2, 1.4.10). */
const VIEWPORT = { width: 1280, height: 800 }
const NARROW = { width: 320, height: 640 }
const LONGEST_MARKUP = 300

const OPTIONS: RunOptions = {
  runOnly: { type: 'tag', values: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] },
  resultTypes: ['violations'],
  rules: {
    // Neither has one of the tags: what is shown on a control is in its name (WCAG 2.2, 2.5.3), and a page has a heading.
    'label-content-name-mismatch': { enabled: true },
    'page-has-heading-one': { enabled: true },
    // What the validator of the markup finds after each change.
    ...Object.fromEntries(
      [
        ...['area-alt', 'button-name', 'document-title', 'duplicate-id-aria', 'html-has-lang', 'image-alt'],
        ...['input-button-name', 'input-image-alt', 'label', 'link-name', 'list', 'listitem', 'meta-refresh'],
        ...['definition-list', 'dlitem', 'select-name', 'html-lang-valid'],
      ].map((rule) => [rule, { enabled: false }]),
    ),
  },
}

const CONTRAST: RunOptions = {
  runOnly: { type: 'rule', values: ['color-contrast'] },
  resultTypes: ['violations'],
}

/** What a page has in the browser besides the usual. */
declare const axe: { run(options: RunOptions): Promise<AxeResults> }

export class PageBrowser {
  readonly #browser: Browser
  readonly #page: Page

  private constructor(browser: Browser, page: Page) {
    this.#browser = browser
    this.#page = page
  }

  /** @param program the path of Chromium */
  static async open(program: string, blog: AnswerPorts & ImagesPort): Promise<PageBrowser> {
    const { chromium } = load('playwright-core') as typeof import('playwright-core')
    const browser = await chromium.launch({
      executablePath: program,
      args: CHROMIUM_FLAGS,
      timeout: LONGEST,
    })
    try {
      const context = await browser.newContext({
        viewport: VIEWPORT,
        reducedMotion: 'reduce',
        serviceWorkers: 'block',
        acceptDownloads: false,
      })
      context.setDefaultTimeout(LONGEST)
      await context.route('**/*', (route) => respond(route, blog))
      await context.addInitScript({ content: await readFile(load.resolve('axe-core/axe.min.js'), 'utf8') })
      return new PageBrowser(browser, await context.newPage())
    } catch (error) {
      await browser.close()
      throw error
    }
  }

  /** Opens a page in both colour schemes, and returns what is wrong, each fault once. */
  async faultsOf(path: string): Promise<BrowserFault[]> {
    const page = this.#page
    const found: BrowserFault[] = []
    const failed = (error: Error) =>
      found.push({ ...fault('script', 'light'), message: `A script fails: ${error.message}` })
    page.on('pageerror', failed)
    try {
      await page.setViewportSize(VIEWPORT)
      await page.emulateMedia({ colorScheme: 'light' })
      await page.goto(ORIGIN + path, { waitUntil: 'load' }).catch((error: unknown) => {
        if (!(error instanceof Error) || error.name !== 'TimeoutError') throw error
        throw new Error(
          `${path} was not loaded within ${LONGEST / 1_000} s. Perhaps one of its scripts does not end.`,
        )
      })
      found.push(...(await inaccessible(page, 'light', OPTIONS)))
      await page.emulateMedia({ colorScheme: 'dark' })
      // Only colours differ.
      found.push(...(await inaccessible(page, 'dark', CONTRAST)))
      await page.emulateMedia({ colorScheme: 'light' })
      await page.setViewportSize(NARROW)
      const wide = await widest(page)
      if (wide)
        found.push({
          ...fault('overflow', 'light'),
          ...wide,
          message: 'The page is wider than a screen of 320 pixels.',
          expected: `${NARROW.width}px`,
        })
    } finally {
      page.off('pageerror', failed)
    }
    const keys = new Set<string>()
    return found.filter(({ rule, markup, message }) => {
      const key = JSON.stringify(markup === '' ? [rule, message] : [rule, markup])
      return !keys.has(key) && keys.add(key)
    })
  }

  async close(): Promise<void> {
    await this.#browser.close()
  }
}

/** Answers a request of the browser as the blog answers readers. Requests of other sites get no answer. */
async function respond(route: Route, blog: AnswerPorts & ImagesPort): Promise<void> {
  const request = route.request()
  const { origin, pathname, search } = new URL(request.url())
  if (origin !== ORIGIN || request.method() !== 'GET') return await route.abort('blockedbyclient')
  const path = pathname + search
  const file = await fileResponse(blog, path)
  if (file)
    return await route.fulfill({
      status: file.status,
      headers: Object.fromEntries(file.headers),
      body: Buffer.from(await file.arrayBuffer()),
    })
  const { status, headers, body } = await answer(blog, internalRequest(path))
  await route.fulfill({ status, headers, body })
}

const fault = (kind: BrowserFault['kind'], scheme: Scheme): BrowserFault => ({
  kind,
  rule: kind,
  message: '',
  markup: '',
  scheme,
  actual: null,
  expected: null,
  style: null,
})

async function inaccessible(page: Page, scheme: Scheme, options: RunOptions): Promise<BrowserFault[]> {
  // Fonts and styles of the other scheme apply in the next frame. Colours in transition are not judged.
  await page.evaluate(async () => {
    await document.fonts.ready
    await new Promise(requestAnimationFrame)
    for (const one of document.getAnimations())
      if (one.effect?.getComputedTiming().iterations !== Infinity) one.finish()
  })
  const { violations } = await page.evaluate((how) => axe.run(how), options)
  const found: BrowserFault[] = []
  for (const { id, help, nodes } of violations)
    for (const node of firstOfEach(nodes)) {
      const markup = node.html.slice(0, LONGEST_MARKUP)
      if (id !== 'color-contrast') {
        found.push({ ...fault('access', scheme), rule: id, message: `${help}.`, markup })
        continue
      }
      const { contrastRatio, expectedContrastRatio, fgColor, bgColor } = (node.any[0]?.data ?? {}) as Contrast
      const [selector] = node.target
      found.push({
        ...fault('contrast', scheme),
        rule: id,
        message: `The contrast of ${fgColor} on ${bgColor} is ${contrastRatio}:1.`,
        markup,
        actual: `${contrastRatio}:1`,
        expected: `at least ${expectedContrastRatio}`,
        style: typeof selector === 'string' ? await page.evaluate(colourOf, selector) : null,
      })
    }
  return found
}

/** Returns the first element of each name and list of classes: findings are about these, and a page may have thousands. */
const firstOfEach = (nodes: readonly NodeResult[]): NodeResult[] => [
  ...new Map(nodes.toReversed().map((one) => [tagOf(one.html), one])).values(),
]

/** What axe-core tells of a contrast. */
interface Contrast {
  contrastRatio: number
  expectedContrastRatio: string
  fgColor: string
  bgColor: string
}

/** Runs in the browser. Returns the last style that sets the colour of an element, or of what it inherits it from. */
function colourOf(selector: string): { selector: string; declared: string } | null {
  const rulesIn = (rules: CSSRuleList): CSSStyleRule[] =>
    [...rules].flatMap((rule) => {
      if (rule instanceof CSSMediaRule && !window.matchMedia(rule.media.mediaText).matches) return []
      if (rule instanceof CSSStyleRule) return [rule, ...rulesIn(rule.cssRules)]
      return rule instanceof CSSGroupingRule ? rulesIn(rule.cssRules) : []
    })
  const rules = [...document.styleSheets].flatMap((sheet) => rulesIn(sheet.cssRules))
  const whole = (rule: CSSStyleRule): string =>
    rule.parentRule instanceof CSSStyleRule
      ? rule.selectorText.includes('&')
        ? rule.selectorText.replaceAll('&', `:is(${whole(rule.parentRule)})`)
        : `:is(${whole(rule.parentRule)}) ${rule.selectorText}`
      : rule.selectorText
  for (let element = document.querySelector(selector); element; element = element.parentElement) {
    const own = element
    const rule = rules.findLast(
      (one) => one.style.getPropertyValue('color') !== '' && own.matches(whole(one).replace(/::[\w-]+/g, '')),
    )
    if (rule)
      return { selector: rule.selectorText, declared: `color: ${rule.style.getPropertyValue('color')}` }
  }
  return null
}

/** Returns the element that is the first to be wider than the window, if the page scrolls sideways. */
function widest(page: Page): Promise<{ markup: string; actual: string } | null> {
  return page.evaluate(async () => {
    await new Promise(requestAnimationFrame)
    const root = document.documentElement
    if (root.scrollWidth <= root.clientWidth) return null
    /** What scrolls by itself, or is cut off, does not make the page wider. */
    const isCut = (element: Element): boolean =>
      element.parentElement !== null &&
      element.parentElement !== document.body &&
      (getComputedStyle(element.parentElement).overflowX !== 'visible' || isCut(element.parentElement))
    const wide = [...document.body.querySelectorAll('*')].filter(
      (one) => one.getBoundingClientRect().right > root.clientWidth + 1 && !isCut(one),
    )
    const last = wide.find((one) => !wide.some((other) => other !== one && one.contains(other)))
    const [tag = ''] = /^<[^>]*>/.exec(last?.outerHTML ?? '') ?? []
    return { markup: tag.slice(0, 300), actual: `${root.scrollWidth}px` }
  })
}
