/** The page of a post or page as it would be, through the blog's own template, marked as what readers do not see yet. */
import { PageFrame } from '../../../shared/page/page-frame.tsx'

/** Rendered this wide, then scaled to the pane. */
const WIDTH = 820

interface Props {
  html: string
  path: string
  origin: string
  /** What readers get at the same address. */
  readers: string
  /** True when that is something else. */
  isPreview: boolean
}

export function WrittenPage({ html, path, origin, readers, isPreview }: Props) {
  return (
    <div className="post-page">
      <p className={`mark-of-page${isPreview ? ' preview' : ''}`}>
        {isPreview ? <b>Preview </b> : null}
        {readers}
      </p>
      <PageFrame html={html} address={origin + path} width={WIDTH} title="The page as it would be" />
    </div>
  )
}
