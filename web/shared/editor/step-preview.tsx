/** Shows a change before it is applied. */
import type { ChangeStep } from '../../../core/shapes/changes.ts'
import { DocumentDiff } from './diff.tsx'
import { words } from '../words/words.ts'

const text = words.changes

export function StepPreview({ step }: { step: ChangeStep }) {
  switch (step.do) {
    case 'save-document':
      return <DocumentDiff document={step.document} before={step.basis ?? ''} after={step.text} />
    case 'delete-document':
      return <DocumentDiff document={step.document} before={step.basis ?? ''} after={null} />
    case 'change-slug':
      return <p className="mono">{text.slug(step.kind, step.from, step.to)}</p>
    case 'delete-term':
      return <p className="mono">{text.deletion(step.kind, step.slug)}</p>
    case 'restore':
      return null
  }
}
