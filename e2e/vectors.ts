/**
 * Texts that run a script where they become markup, and how the browser tests notice it. In the manner of the OWASP XSS
 * Filter Evasion Cheat Sheet and html5sec.org, from memory.
 */
import type { Page } from '@playwright/test'

export const RUN = 'window.__ran=1'
export const VECTORS = [
  `<script>${RUN}</script>`,
  `"><script>${RUN}</script>`,
  `'><img src=x onerror=${RUN}>`,
  `<svg onload=${RUN}>`,
  `</title><svg onload=${RUN}>`,
  `</textarea><img src=x onerror=${RUN}>`,
  `<img src=x onerror=${RUN}//`,
  `<details open ontoggle=${RUN}>x</details>`,
  `<video><source onerror=${RUN}></video>`,
  `<iframe srcdoc="<script>parent.${RUN}</script>"></iframe>`,
  `<math><mtext><table><mglyph><style><img src=x onerror=${RUN}>`,
  `" onmouseover="${RUN}" autofocus onfocus="${RUN}" x="`,
  `{{ '<script>${RUN}</script>' | raw }}`,
  `<a href="javascript:${RUN}">a</a>`,
  `[a](javascript:${RUN}) ![b](x" onerror="${RUN})`,
  `<style>@import 'data:text/css,*{x:expression(${RUN})}';</style>`,
  `<base href="javascript:/"><form action="javascript:${RUN}"><button autofocus>x</button></form>`,
]

/** Runs in the page: waits until every image, lazy ones too, has loaded or failed, and its event has been handled. */
export async function imagesSettled(): Promise<void> {
  for (const image of document.images) image.loading = 'eager'
  await Promise.all([...document.images].map((image) => image.decode().catch(() => undefined)))
  await new Promise((done) => setTimeout(done, 50))
}

/** Returns what has run a script, or can do so by a click, on the page and in its frames. */
export async function scriptsThatRan(page: Page): Promise<string[]> {
  const found: string[] = []
  for (const frame of page.frames())
    if ((await frame.evaluate(() => '__ran' in window).catch(() => false)) as boolean) found.push(frame.url())
  const clickable = await page
    .locator('[href^="javascript:" i], [action^="javascript:" i], [formaction^="javascript:" i]')
    .count()
  if (clickable > 0) found.push(`${clickable} elements to click on ${page.url()}`)
  return found
}
