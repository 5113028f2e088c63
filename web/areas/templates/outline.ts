/** Outlines elements of a page in a frame, with a plate that names the line that has printed them. */

const LABEL = 'data-outline-label'
const drawn = new WeakMap<Document, { element: HTMLElement; before: [string, string] }[]>()

/** The first elements are outlined; a line in a loop may have printed hundreds. */
const MOST = 60

/** Replaces the outlines of a page. */
export function outlineElements(page: Document, elements: readonly HTMLElement[], label: string): void {
  for (const { element, before } of drawn.get(page) ?? [])
    [element.style.outline, element.style.boxShadow] = before
  page.querySelector(`[${LABEL}]`)?.remove()
  // The page in the frame does not have the workbench's tokens. A pale ring keeps the outline visible on a dark page.
  const style = getComputedStyle(document.documentElement)
  const [colour, ring] = ['--plate', '--cobalt-pale'].map((name) => style.getPropertyValue(name))
  drawn.set(
    page,
    elements.slice(0, MOST).map((element) => {
      const { outline, boxShadow } = element.style
      Object.assign(element.style, { outline: `2px solid ${colour}`, boxShadow: `0 0 0 3px ${ring}` })
      return { element, before: [outline, boxShadow] as [string, string] }
    }),
  )
  const [first] = elements
  if (!first || first === page.body) return
  const box = first.getBoundingClientRect()
  if (box.width === 0 && box.height === 0) return
  const view = page.documentElement
  if (box.bottom < 0 || box.top > view.clientHeight)
    first.scrollIntoView({ block: 'center', behavior: 'instant' })
  const { right, top } = first.getBoundingClientRect()
  const plate = page.createElement('span')
  plate.setAttribute(LABEL, '')
  plate.textContent = label
  Object.assign(plate.style, {
    all: 'initial',
    position: 'absolute',
    zIndex: '2147483647',
    pointerEvents: 'none',
    whiteSpace: 'nowrap',
    font: '600 12px/1.5 monospace',
    padding: '0 6px',
    color: '#fff',
    background: colour,
    borderRadius: '3px',
    top: `${Math.max(0, top + view.scrollTop - 20)}px`,
    left: `${Math.max(0, right + view.scrollLeft)}px`,
    transform: 'translateX(-100%)',
  })
  page.body.append(plate)
}
