/** The worker thread of `service.ts`: runs the checks, and tries fixes, on a blog of its own that keeps no copies. */
import { runRules } from '../../core/checks/run.ts'
import { RULES } from '../../core/checks/rules/all.ts'
import { answerWith } from '../jobs/answering.ts'
import { loadDocuments } from '../publish/documents.ts'
import { databaseAt, siteOf } from '../publish/in-thread.ts'
import { Blog } from '../reader/blog.ts'
import { collectFacts } from './facts.ts'
import type { CheckAnswer, CheckQuestion } from './questions.ts'
import { whyNotOffered } from './rehearse-fix.ts'

const quiet = { info: () => undefined, error: () => undefined }

answerWith(
  async (
    question: CheckQuestion,
    progress: (done: number) => void,
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
    const result = await runRules(RULES, facts, () => performance.now(), { signal, progress })
    return { kind: 'run', result }
  },
)
