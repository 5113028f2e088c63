/** Renders pages with unsaved templates, completes and extracts, in a worker thread with limits. */
import type { BodyOf } from '../../contract/operations.ts'
import type { TemplatePreview } from '../../contract/templates.ts'
import type { Rearranged } from '../../core/blog/rearranging/rearranged.ts'
import type { DocumentChange } from '../../core/shapes/changes.ts'
import { refused, success, type Outcome } from '../../core/shapes/outcome.ts'
import { PATIENCE, Thread, ThreadStopped } from '../jobs/thread.ts'
import { loadDocuments } from '../publish/documents.ts'
import type { CommentServicePort, CursorKeyPort, DatabasePort } from '../publish/ports.ts'
import { urlOf } from '../store/connection.ts'
import { PREVIEW_PROBLEMS } from './problems.ts'
import type { Documents } from '../publish/trials.ts'
import type {
  Answer,
  BuildingState,
  Completion,
  Extracted,
  Question,
  RearrangingQuestion,
} from './questions.ts'

/** How long a preview may take, in milliseconds. */
const LONGEST = 8_000

/** How long the steps in which a blog is built may take, in milliseconds. They need about thirty requests. */
const LONGEST_BUILDING = 30_000

/** Memory of the thread, in megabytes. */
const MEMORY = 512

export class TemplatePreviews {
  readonly #blog: DatabasePort & CursorKeyPort & CommentServicePort
  readonly #thread = new Thread<Question, Answer>('preview-thread', MEMORY)

  constructor(blog: DatabasePort & CursorKeyPort & CommentServicePort) {
    this.#blog = blog
  }

  async preview({
    document,
    texts,
    target,
    as = 'reader',
    time = 1,
  }: BodyOf<'POST /api/template/preview'>): Promise<Outcome<TemplatePreview>> {
    const path = target.startsWith('/') ? target : `/${target}`
    const { database, cursorKey, commentService } = this.#blog
    const documents = await this.#documents(texts)
    const asked = { document, as, time, target: path, cursorKey, commentService }
    const preview = await this.#ask({ kind: 'preview', url: urlOf(database), documents, ...asked })
    return preview.ok
      ? success(preview.value as TemplatePreview)
      : refused({ file: document, ...PREVIEW_PROBLEMS['preview-too-long'](path, preview.reason) })
  }

  async complete({ texts, ...asked }: BodyOf<'POST /api/template/complete'>): Promise<Outcome<Completion>> {
    // The document itself stays as it is stored: what is being typed need not be valid.
    const { [asked.document]: _, ...others } = texts
    const found = await this.#ask({ kind: 'complete', documents: await this.#documents(others), ...asked })
    return success(found.ok ? (found.value as Completion) : { from: asked.at, choices: [] })
  }

  /** Asks the blog which of the steps are done. It takes dozens of requests, for which readers must not wait. */
  async building(): Promise<Outcome<BuildingState>> {
    const { database, cursorKey, commentService } = this.#blog
    const documents = await this.#documents({})
    const asked = { url: urlOf(database), documents, cursorKey, commentService }
    const found = await this.#ask({ kind: 'building', ...asked }, LONGEST_BUILDING)
    return found.ok
      ? success(found.value as BuildingState)
      : refused({ file: 'routes.yaml', ...PREVIEW_PROBLEMS['building-too-long'](found.reason) })
  }

  /** Drafts a partial. The stored texts are returned with the changes, which are based on them. */
  async extract(
    selection: BodyOf<'POST /api/template/extract'>,
  ): Promise<Outcome<{ changes: DocumentChange[]; given: string[]; documents: Documents }>> {
    const documents = await this.#documents({})
    const extracted = await this.#ask({ kind: 'extract', documents, selection })
    if (!extracted.ok)
      return refused({ file: selection.document, ...PREVIEW_PROBLEMS['extract-too-long'](extracted.reason) })
    const outcome = extracted.value as Extracted
    return outcome.ok ? success({ ...outcome.value, documents }) : outcome
  }

  /** Drafts a change that leaves every page as it is. The stored texts, which it is based on, are returned with it. */
  async rearrange(how: RearrangingQuestion['how']): Promise<Outcome<Rearranged & { documents: Documents }>> {
    const documents = await this.#documents({})
    const answer = await this.#ask({ kind: 'rearrange', documents, how })
    const file = 'document' in how ? how.document : how.from
    if (!answer.ok) return refused({ file, ...PREVIEW_PROBLEMS['extract-too-long'](answer.reason) })
    const outcome = answer.value as Outcome<Rearranged>
    return outcome.ok ? success({ ...outcome.value, documents }) : outcome
  }

  /** Returns the stored documents with others in their place. */
  async #documents(texts: Readonly<Record<string, string>>): Promise<Documents> {
    return new Map([...(await loadDocuments(this.#blog.database)), ...Object.entries(texts)])
  }

  /** Returns the answer of the thread, or why it was stopped. */
  async #ask(
    question: Question,
    longest = LONGEST,
  ): Promise<{ ok: true; value: Answer } | { ok: false; reason: string }> {
    try {
      return { ok: true, value: await this.#thread.ask(question, { longest, patience: PATIENCE }) }
    } catch (error) {
      if (!(error instanceof ThreadStopped)) throw error
      return { ok: false, reason: error.message }
    }
  }

  stop(): Promise<void> {
    return this.#thread.stop()
  }
}
