/**
 * Keeps the focus where the work goes on. When the focused element is removed, disabled or hidden, the browser moves the
 * focus to the page's body, and the next Tab starts at the top. This puts it on the element that took its place.
 */

const FOCUSABLE =
  'a[href], button, input, select, textarea, iframe, [tabindex]:not([tabindex="-1"]), [contenteditable="true"]'

const isVisible = (element: Element): boolean =>
  typeof element.checkVisibility !== 'function' || element.checkVisibility({ visibilityProperty: true })

const isUsable = (element: Element): boolean =>
  element.isConnected && !element.matches(':disabled, [tabindex="-1"]') && isVisible(element)

const focusableIn = (container: Element): HTMLElement[] =>
  [...container.querySelectorAll<HTMLElement>(FOCUSABLE)].filter(isUsable)

/** Where an element stood: its containers from the inside out, with its index among what can be focused there. */
interface Place {
  element: Element
  containers: readonly { container: Element; index: number }[]
}

/** Not farther than the pane: what is beside it is other work. */
const PANE = 'section, main, [role="dialog"], body'

function placeOf(element: Element): Place {
  const pane = element.parentElement?.closest(PANE)
  const all = pane ? focusableIn(pane) : []
  const containers: { container: Element; index: number }[] = []
  for (let container = element.parentElement; container !== null; container = container.parentElement) {
    const inside = all.filter((one) => container?.contains(one))
    containers.push({ container, index: Math.max(inside.indexOf(element as HTMLElement), 0) })
    if (container === pane) break
  }
  return { element, containers }
}

/** Returns what stands there now: the element itself, or the one that took its place. */
function successor({ element, containers }: Place): HTMLElement | undefined {
  if (isUsable(element)) return element as HTMLElement
  for (const { container, index } of containers) {
    if (!container.isConnected) continue
    const candidates = focusableIn(container)
    const next = candidates[Math.min(index, candidates.length - 1)]
    if (next) return next
  }
  return undefined
}

/** Watches a document. @returns a function that stops it */
export function keepFocus(document: Document): () => void {
  const { body } = document
  /** The last focused elements: in the page, and in a menu or list that Ant Design renders at the end of the body. */
  let inPage: Place | null = null
  let last: Element | null = null
  const isInPage = (element: Element) => element.closest('#root') !== null

  const onFocus = ({ target }: FocusEvent) => {
    if (!(target instanceof Element)) return
    last = target
    if (isInPage(target)) inPage = placeOf(target)
  }
  const onBlur = ({ target, relatedTarget }: FocusEvent) => {
    if (relatedTarget !== null || !(target instanceof Element)) return
    // Someone clicked beside it on purpose, unless it is gone once the page is rendered.
    setTimeout(() => {
      if (document.activeElement === body && last === target && isUsable(target)) last = inPage = null
    })
  }
  const restore = () => {
    if (document.activeElement !== body || last === null || inPage === null || isUsable(last)) return
    successor(inPage)?.focus()
  }
  const observer = new MutationObserver(restore)
  observer.observe(body, {
    subtree: true,
    childList: true,
    attributeFilter: ['disabled', 'class', 'style', 'hidden'],
  })
  document.addEventListener('focusin', onFocus)
  document.addEventListener('focusout', onBlur)
  return () => {
    observer.disconnect()
    document.removeEventListener('focusin', onFocus)
    document.removeEventListener('focusout', onBlur)
  }
}
