/** The Content area: one screen for each kind of content. */
import { Navigate, useParams } from 'react-router'
// First, so that the stylesheets of single kinds come after it.
import './content.css'
import './popups.css'
import { HtmlArea } from './html/html-area.tsx'
import { ImagesArea } from './images/images-area.tsx'
import { PagesArea } from './pages/pages-area.tsx'
import { PostsArea } from './posts/posts-area.tsx'
import { TermsArea } from './terms/terms-area.tsx'

export function ContentScreen() {
  const { kind } = useParams()
  return <main className={`content ${kind ?? ''}`}>{areaOf(kind)}</main>
}

function areaOf(kind: string | undefined) {
  switch (kind) {
    case 'posts':
      return <PostsArea />
    case 'pages':
      return <PagesArea />
    case 'categories':
      return <TermsArea key={kind} kind="category" />
    case 'tags':
      return <TermsArea key={kind} kind="tag" />
    case 'authors':
      return <TermsArea key={kind} kind="author" />
    case 'images':
      return <ImagesArea />
    case 'html':
      return <HtmlArea />
    default:
      return <Navigate to={{ pathname: '/content/posts', search: window.location.search }} replace />
  }
}
