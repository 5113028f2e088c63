/** The worker thread of `template-previews.ts`. */
import type { Definition } from '../../core/blog/definition.ts'
import { readDefinition } from '../../core/blog/read.ts'
import { extractPartial } from '../../core/blog/rearranging/extract-partial.ts'
import { inlinePartial } from '../../core/blog/rearranging/inline-partial.ts'
import type { Rearranged } from '../../core/blog/rearranging/rearranged.ts'
import { renameDocument } from '../../core/blog/rearranging/rename-document.ts'
import { renameValue } from '../../core/blog/rearranging/rename-value.ts'
import { EXTRACT_PROBLEMS } from '../../core/blog/problems.ts'
import { refused, type Outcome } from '../../core/shapes/outcome.ts'
import { completeByType } from '../../core/blog/template-completion.ts'
import { pageOf, templateView } from '../../core/blog/template-view.ts'
import { printedElements } from '../../core/templates/authoring/printed-elements.ts'
import { repeatsIn } from '../../core/templates/authoring/repeats.ts'
import { PageRecorder } from '../../core/templates/authoring/page-recorder.ts'
import { documentName, templatePath } from '../../core/shapes/documents.ts'
import type { TemplatePreview } from '../../contract/templates.ts'
import { answerWith } from '../jobs/answering.ts'
import { databaseAt, siteOf } from '../publish/in-thread.ts'
import { answer } from '../reader/answer.ts'
import { Blog } from '../reader/blog.ts'
import { internalRequest } from '../reader/request.ts'
import { Walk } from '../reader/walk/walk.ts'
import type { Documents } from '../publish/trials.ts'
import { buildingSteps } from '../probes/building/building-steps.ts'
import type {
  Answer,
  BuildingQuestion,
  BuildingState,
  Completion,
  CompletionQuestion,
  Extracted,
  ExtractQuestion,
  PreviewQuestion,
  Question,
  RearrangingQuestion,
} from './questions.ts'

const quiet = { info: () => undefined, error: () => undefined }

/** A walk that also records what each template prints. */
class RecordedWalk extends Walk {
  recorder: PageRecorder | undefined
  readonly #begin: () => PageRecorder

  constructor(begin: () => PageRecorder, ...walk: ConstructorParameters<typeof Walk>) {
    super(...walk)
    this.#begin = begin
  }

  override renderingStarted(template: string): void {
    this.recorder = this.#begin()
    this.recorder.templateEntered(template)
    super.renderingStarted(template)
  }

  override enterTemplate(name: string, from: { file: string; line: number }): void {
    this.recorder?.templateEntered(name)
    super.enterTemplate(name, from)
  }
}

const NOTHING: TemplatePreview = {
  problems: [],
  page: null,
  times: 0,
  scopes: [],
  lines: [],
  reads: [],
  faults: [],
  repeats: [],
}

answerWith((question: Question): Answer | Promise<Answer> => {
  switch (question.kind) {
    case 'preview':
      return preview(question)
    case 'complete':
      return complete(question)
    case 'extract':
      return extract(question)
    case 'rearrange':
      return rearrange(question)
    case 'building':
      return building(question)
  }
})

/** The latest definition that was read for what its author is typing, whose own text changes with every letter. */
let latest: { key: string; definition: Definition } | undefined

function definitionOf(documents: Documents): Definition | undefined {
  const key = JSON.stringify([...documents])
  if (latest?.key !== key) {
    const read = readDefinition(documents)
    latest = read.ok ? { key, definition: read.value } : undefined
  }
  return latest?.definition
}

function extract({ documents, selection }: ExtractQuestion): Extracted {
  const definition = definitionOf(documents)
  return definition
    ? extractPartial(definition, documents, selection)
    : refused({ file: selection.document, ...EXTRACT_PROBLEMS['extract-definition-invalid']() })
}

function rearrange({ documents, how }: RearrangingQuestion): Outcome<Rearranged> {
  const definition = definitionOf(documents)
  if (!definition)
    return refused({
      file: 'document' in how ? how.document : how.from,
      ...EXTRACT_PROBLEMS['extract-definition-invalid'](),
    })
  switch (how.do) {
    case 'inline':
      return inlinePartial(definition, documents, how)
    case 'rename-value':
      return renameValue(definition, documents, how)
    case 'rename-document':
      return renameDocument(definition, documents, how)
  }
}

async function building(question: BuildingQuestion): Promise<BuildingState> {
  const { url, documents, cursorKey, commentService } = question
  const database = await databaseAt(url)
  const site = siteOf(database, documents)
  // The stored definition is valid.
  if (!site.ok) throw new Error(site.problems.map((one) => one.message).join(' '))
  return await buildingSteps(
    new Blog({ database, site: site.value, log: quiet, fragments: 'off', cursorKey, commentService }),
  )
}

function complete({ documents, document, text, at, route }: CompletionQuestion): Completion {
  const definition = definitionOf(documents)
  const request = { template: documentName(document), text, at, route }
  return (definition && completeByType(definition, request)) ?? { from: at, choices: [] }
}

async function preview(question: PreviewQuestion): Promise<TemplatePreview> {
  const { url, documents, document, target, as, time } = question
  const database = await databaseAt(url)
  const built = siteOf(database, documents)
  if (!built.ok) return { ...NOTHING, problems: built.problems.map((one) => ({ ...one })) }
  const site = built.value
  const { definition } = site
  const template = documentName(document)
  const { cursorKey, commentService } = question
  const blog = new Blog({ database, site, log: quiet, fragments: 'off', cursorKey, commentService })
  const request = internalRequest(target, { as })
  const walk = new RecordedWalk(() => new PageRecorder(template, time), request, blog.clock(), site.version)
  await answer(blog, request, walk)
  const { route, response, failure, milliseconds } = walk.record
  const recorder = failure ? undefined : walk.recorder
  const printed = recorder && printedElements(response.body, recorder)
  const { faults, ...view } = templateView(definition, template, pageOf(definition, route.name), recorder)
  const texts = new Map(
    [...definition.templates.mentions()].map(([name]) => [name, definition.templates.text(name) ?? '']),
  )
  return {
    ...view,
    repeats: repeatsIn(template, texts).map(({ from, to, others }) => ({
      ...{ from, to },
      others: others.map((one) => ({ document: templatePath(one.template), from: one.from, to: one.to })),
    })),
    problems: [],
    page: {
      status: response.status,
      route: route.name,
      html: printed?.html ?? response.body,
      policy: response.headers['content-security-policy'] ?? null,
      location: response.headers['location'] ?? null,
      places: (printed?.places ?? []).map((one) => ({
        document: templatePath(one.template),
        line: one.line,
        time: one.time,
      })),
      elements: printed?.elements ?? [],
      failure: failure && {
        message: failure.message,
        hint: failure.hint,
        document: failure.place?.document ?? null,
        line: failure.place?.line ?? null,
      },
      milliseconds,
    },
    times: recorder?.timesOf(template) ?? 0,
    faults: faults.map(({ kind, place, subject, message, hint }) => ({
      ...{ kind, subject, message, hint },
      ...{ line: place.line, column: place.column },
    })),
  }
}
