/** Opens a sample of pages in a browser for the rules that need one. */
import type { BrowserFacts, Facts, OpenedPage } from '../../core/checks/facts.ts'
import { samplePages } from '../../core/checks/sample-pages.ts'
import type { FactPorts } from './facts.ts'
import { PageBrowser } from './page-browser.ts'
import type { Progress } from './questions.ts'

/** @param program the path of Chromium */
export async function openPages(
  program: string,
  blog: FactPorts,
  facts: Facts,
  { signal, progress }: { signal: AbortSignal; progress: (step: Progress) => void },
): Promise<BrowserFacts> {
  const sample = await samplePages(facts)
  const pages = sample.pages.filter((one) => !one.isOfForm)
  const total = sample.total - (sample.pages.length - pages.length)
  progress({ done: 0, total: pages.length })
  const browser = await PageBrowser.open(program, blog)
  try {
    const opened: OpenedPage[] = []
    for (const { address, templates } of pages) {
      signal.throwIfAborted()
      opened.push({ address, templates, faults: await browser.faultsOf(address) })
      progress({ done: opened.length, total: pages.length })
    }
    return { ...facts, opened, total }
  } finally {
    await browser.close()
  }
}
