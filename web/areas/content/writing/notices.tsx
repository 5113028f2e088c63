/** What stands between the author and a save: a conflict, a refusal, a text brought back. */
import { Alert, Button } from 'antd'
import { useState } from 'react'
import { Diff } from '../../../shared/editor/diff.tsx'
import { lineChanges } from '../../../shared/editor/line-changes.ts'
import type { Draft } from './use-draft.ts'

interface Props {
  work: Pick<
    Draft<{ body: string }, unknown>,
    'save' | 'parts' | 'takeStored' | 'saveNow' | 'isBroughtBack' | 'discard'
  >
  /** post, page */
  what: string
}

export function Notices({ work, what }: Props) {
  const { save, parts } = work
  const [isCompared, setCompared] = useState(false)
  if (save.kind === 'conflict')
    return (
      <div className="notices" role="alert">
        <Alert
          type="warning"
          banner
          title={`Somebody else saved this ${what} meanwhile`}
          description="Nothing is lost: yours is here, theirs is stored. Compare the texts, then take one."
          action={
            <>
              <Button size="small" onClick={() => setCompared(!isCompared)}>
                {isCompared ? 'Hide' : 'Compare'}
              </Button>{' '}
              <Button size="small" onClick={() => void work.takeStored()}>
                Take theirs
              </Button>{' '}
              <Button size="small" danger onClick={() => void work.saveNow(save.version)}>
                Save mine
              </Button>
            </>
          }
        />
        {isCompared ? (
          <div className="compared">
            <p className="muted small">Lines with − are theirs only, with + yours only.</p>
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
          title={`Not saved${first ? `: ${first.message}` : `: ${save.title}`}`}
          description={first?.hint ?? save.detail}
        />
      </div>
    )
  }
  if (work.isBroughtBack)
    return (
      <div className="notices" role="status">
        <Alert
          type="info"
          banner
          title="What you had typed here is back; it was not saved"
          action={
            <Button size="small" onClick={work.discard}>
              Discard it
            </Button>
          }
        />
      </div>
    )
  return null
}
