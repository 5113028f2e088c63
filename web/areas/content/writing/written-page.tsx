/** The page of a post, page or term, rendered by the blog, with a note if readers do not get it. */
import { PageFrame } from '../../../shared/page/page-frame.tsx'
import { words } from '../words.ts'

/** The width at which the page is laid out, in pixels. It is scaled to the pane. */
const WIDTH = 820

interface Props {
  html: string
  /** The `content-security-policy` of the page. */
  policy: string
  address: string
  note: string
  /** Whether readers get something else at this address. */
  isPreview: boolean
}

export function WrittenPage({ html, policy, address, note, isPreview }: Props) {
  return (
    <div className="post-page">
      <p className={`mark-of-page${isPreview ? ' preview' : ''}`}>
        {isPreview ? <b>{words.writing.preview} </b> : null}
        {note}
      </p>
      <PageFrame
        html={html}
        policy={policy}
        address={address}
        width={WIDTH}
        title={words.writing.pageFrame}
      />
    </div>
  )
}
