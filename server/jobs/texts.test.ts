// Long texts and drawings are read beside the event loop, with the same result, and what does not end is stopped.
import { execFile } from 'node:child_process'
import { promisify } from 'node:util'
import { afterAll, expect, it } from 'vitest'
import { WHOLE_LIST } from '../../core/content/html/allow-list.ts'
import { renderMarkdown } from '../../core/content/html/markdown.ts'
import { cleanSvg } from '../../core/content/html/svg.ts'
import { readMatter } from '../../core/content/front-matter.ts'
import { PostMatter } from '../../core/shapes/content-schemas.ts'
import { readDrawing, renderText } from './texts.ts'
import { Thread, ThreadStopped } from './thread.ts'

const sizeOf = (address: string) =>
  address.startsWith('/media/moth') ? { width: 30, height: 20 } : undefined

/** Waits for a result, and counts the turns of the event loop meanwhile. */
async function turnsDuring<T>(work: Promise<T>): Promise<{ value: T; turns: number }> {
  let turns = 0
  let isDone = false
  const turn = () => {
    turns++
    if (!isDone) setImmediate(turn)
  }
  setImmediate(turn)
  const value = await work.finally(() => (isDone = true))
  return { value, turns }
}

it('renders a long text as it renders a short one, while readers get turns', async () => {
  const text = '![moth](/media/moth.svg?x=1) *a* <b>b</b> ## c\n\n## same\n\n'.repeat(500)
  const { value, turns } = await turnsDuring(renderText(text, WHOLE_LIST, sizeOf))
  expect(value.html).toBe(renderMarkdown(text, { sizeOf }).html)
  expect(value.html).toContain('width="30"')
  expect(turns).toBeGreaterThan(20)
  expect((await turnsDuring(renderText('*a*', WHOLE_LIST, sizeOf))).value.html).toBe('<p><em>a</em></p>\n')
})

it('numbers equal headings without counting again for each of them', async () => {
  const { html } = await renderText('# Same\n\n'.repeat(12_000), WHOLE_LIST, sizeOf)
  const ids = [...html.matchAll(/id="([^"]+)"/g)].map((found) => found[1])
  expect([ids[0], ids[1], ids.at(-1), new Set(ids).size]).toEqual([
    'h-same',
    'h-same-2',
    'h-same-12000',
    12_000,
  ])
})

it('reads a long drawing beside the event loop, and stops at the first fault', async () => {
  const open = '<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10">'
  const drawing = `${open}${'<path d="M0 0h9"/>'.repeat(5_000)}</svg>`
  const { value, turns } = await turnsDuring(readDrawing(drawing))
  expect(value).toEqual(cleanSvg(drawing))
  expect(turns).toBeGreaterThan(20)
  // At a million characters, reading on after the fault took minutes.
  expect(await readDrawing(open + '<g>'.repeat(300_000))).toMatchObject({
    ok: false,
    problem: { code: 'svg-too-deep' },
  })
})

it('refuses front matter that does not end', () => {
  const endless = `---\n${'- a\n'.repeat(50_000)}title: a\n---\n`
  expect(readMatter('content/posts/a.md', endless, PostMatter)).toMatchObject({
    ok: false,
    problems: [{ code: 'front-matter-too-long', line: 1 }],
  })
})

const endless = new Thread<string, string>(
  new URL(
    `data:text/javascript,${encodeURIComponent(
      "import { parentPort } from 'node:worker_threads'; parentPort.postMessage({ ready: null }); parentPort.on('message', ({ question: text }) => { if (text === 'loop') for (;;); if (text === 'throw') parentPort.postMessage({ failed: 'thrown' }); else parentPort.postMessage({ value: text }) })",
    )}`,
  ),
)
const ask = (text: string) => endless.ask(text, { longest: 1_000 })
afterAll(() => endless.stop())

it('a thread that does not answer is stopped, and the next question gets another one', async () => {
  const answers = await Promise.allSettled(['a', 'loop', 'b', 'throw', 'c'].map((one) => ask(one)))
  expect(
    answers.map((one) => (one.status === 'fulfilled' ? one.value : (one.reason as Error).message)),
  ).toEqual(['a', 'It took longer than 1 s.', 'b', 'thrown', 'c'])
  await expect(ask('loop')).rejects.toBeInstanceOf(ThreadStopped)
})

it('an aborted question fails with the reason, also while it waits, and the thread answers the next one', async () => {
  const answering = `
    import { answerWith } from '${new URL('./answering.ts', import.meta.url).href}'
    let count = 0
    answerWith((text, progress, signal) => ++count && text === 'long'
      ? new Promise((done, fail) => { progress('begun'); signal.addEventListener('abort', () => fail(signal.reason)) })
      : text + count)`
  const loader = `import { register } from '${import.meta.resolve('tsx/esm/api')}'; register(); await import("data:text/javascript,${encodeURIComponent(answering)}")`
  const thread = new Thread<string, string, string>(
    new URL(`data:text/javascript,${encodeURIComponent(loader)}`),
  )
  const abort = new AbortController()
  const long = thread.ask('long', {
    signal: abort.signal,
    progress: () => abort.abort(new Error('not needed any more')),
  })
  const waiting = thread.ask('next', { signal: abort.signal })
  await expect(long).rejects.toThrow('not needed any more')
  await expect(waiting).rejects.toThrow('not needed any more')
  // It is the same thread.
  expect(await thread.ask('after')).toBe('after2')
  await thread.stop()
})

it('a thread that goes on after an abort is stopped, and the next question gets another one', async () => {
  const abort = new AbortController()
  const aborted = endless.ask('loop', { signal: abort.signal })
  const next = endless.ask('next')
  await new Promise((done) => setTimeout(done, 100))
  abort.abort(new Error('not needed any more'))
  await expect(aborted).rejects.toThrow('not needed any more')
  expect(await next).toBe('next')
})

it('keeps a process running while it has a question, and not afterwards', async () => {
  const program = `
    import { Thread } from ${JSON.stringify(new URL('./thread.ts', import.meta.url).href)}
    const echo = "import { parentPort } from 'node:worker_threads'; parentPort.postMessage({ ready: null }); parentPort.on('message', ({ question }) => setTimeout(() => parentPort.postMessage({ value: question }), 300))"
    const thread = new Thread(new URL('data:text/javascript,' + encodeURIComponent(echo)))
    console.log(await thread.ask('answered'))`
  const { stdout } = await promisify(execFile)(
    process.execPath,
    ['--import', 'tsx', '--input-type=module', '--eval', program],
    { timeout: 30_000 },
  )
  expect(stdout.trim()).toBe('answered')
})
