/** Focus after an action, when the element that had it disappears. */

/** Focuses an element once React has rendered the result of the action. */
export function focusLater(find: () => HTMLElement | null | undefined): void {
  requestAnimationFrame(() => find()?.focus())
}
