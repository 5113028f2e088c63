/** Starts the workbench in the browser. */
import '@fontsource-variable/overpass/wght.css'
import '@fontsource-variable/overpass-mono/wght.css'
import 'antd/dist/reset.css'
import './shared/frame/tokens.css'
import './shared/frame/parts.css'
import { createRoot } from 'react-dom/client'
import { Workbench } from './workbench.tsx'
import { keepFocus } from './shared/focus/keep-focus.ts'

const root = document.getElementById('root')
if (root) createRoot(root).render(<Workbench />)
keepFocus(document)
