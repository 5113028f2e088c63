/** The worker thread of `service.ts`: runs the checks, opens pages in a browser, and tries fixes, on a blog of its own that keeps no copies. */
import { runRules } from '../../core/checks/run.ts'
import { BROWSER_RULES, RULES } from '../../core/checks/rules/all.ts'
import { answerWith } from '../jobs/answering.ts'
import { loadDocuments } from '../publish/documents.ts'
import { databaseAt, siteOf } from '../publish/in-thread.ts'
import { Blog } from '../reader/blog.ts'
import { collectFacts } from './facts.ts'
import { openPages } from './open-pages.ts'
import type { CheckAnswer, CheckQuestion, Progress } from './questions.ts'
import { whyNotOffered } from './rehearse-fix.ts'

const quiet = { info: () => undefined, error: () => undefined }

answerWith(
  async (
    question: CheckQuestion,
    progress: (step: Progress) => void,
    signal: AbortSignal,
  ): Promise<CheckAnswer> => {
    const { url, cursorKey, now, origins, commentService, counted } = question
    const database = await databaseAt(url)
    const documents = await loadDocuments(database)
    const built = siteOf(database, documents)
    if (!built.ok) throw new Error(built.problems.map((one) => one.message).join(' '))
    const site = built.value
    // One moment for the whole run, so that two answers never differ only because time has passed.
    const blog = new Blog({
      database,
      site,
      log: quiet,
      clock: () => now,
      cursorKey,
      origins,
      commentService,
      fragments: 'off',
    })
    if (question.kind === 'fix') {
      const { finding, fix, before } = question
      return { kind: 'fix', reason: await whyNotOffered({ blog, signal, before, counted }, finding, fix) }
    }
    const facts = collectFacts({ blog, manager: database.manager, site, documents, counted, signal })
    const clock = () => performance.now()
    if (question.kind === 'browser') {
      const opened = await openPages(question.program, blog, facts, { signal, progress })
      return { kind: 'browser', result: await runRules(BROWSER_RULES, opened, clock, { signal }) }
    }
    const report = (done: number) => progress({ done, total: RULES.length })
    return { kind: 'run', result: await runRules(RULES, facts, clock, { signal, progress: report }) }
  },
)
