/** What prevents a save: a conflict or a refusal; and unsaved text that was restored. */
import { Alert, Button } from 'antd'
import { useState } from 'react'
import { Diff } from '../../../shared/editor/diff.tsx'
import { lineChanges } from '../../../shared/editor/line-changes.ts'
import { words as shared } from '../../../shared/words/words.ts'
import { words } from '../words.ts'
import type { Draft } from './use-draft.ts'

const text = words.writing

interface Props {
  work: Pick<
    Draft<{ body: string }, unknown>,
    'save' | 'parts' | 'useStored' | 'saveNow' | 'isRestored' | 'discard'
  >
  kind: 'post' | 'page'
  /** Puts the focus where the work goes on, after a choice that removes its own button. */
  resume(): void
}

export function SaveProblems({ work, kind, resume }: Props) {
  const { save, parts } = work
  const [isCompared, setCompared] = useState(false)
  if (save.kind === 'conflict')
    return (
      <div className="notices" role="alert">
        <Alert
          type="warning"
          banner
          title={text.conflict(kind)}
          description={text.conflictHelp}
          action={
            <>
              <Button size="small" aria-expanded={isCompared} onClick={() => setCompared(!isCompared)}>
                {isCompared ? shared.hide : text.compare}
              </Button>{' '}
              <Button size="small" onClick={() => void work.useStored().then(resume)}>
                {text.useTheirs}
              </Button>{' '}
              <Button size="small" danger onClick={() => void work.saveNow(save.version).then(resume)}>
                {text.saveMine}
              </Button>
            </>
          }
        />
        {isCompared ? (
          <div className="compared">
            <p className="muted small">{text.legend}</p>
            <Diff changes={lineChanges(save.text, parts.body)} />
          </div>
        ) : null}
      </div>
    )
  if (save.kind === 'refused') {
    const [first] = save.problems
    return (
      <div className="notices" role="alert">
        <Alert
          type="error"
          banner
          title={text.refused(first?.message ?? save.title)}
          description={first?.hint ?? save.detail}
        />
      </div>
    )
  }
  if (work.isRestored)
    return (
      <div className="notices" role="status">
        <Alert
          type="info"
          banner
          title={text.restored}
          action={
            <Button
              size="small"
              onClick={() => {
                work.discard()
                resume()
              }}
            >
              {shared.discard}
            </Button>
          }
        />
      </div>
    )
  return null
}
