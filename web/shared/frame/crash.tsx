/** The page for errors. */
import { Button } from 'antd'
import { useRouteError } from 'react-router'
import { words } from '../words/words.ts'

export function Crash({
  title,
  detail,
  again,
}: {
  title?: string
  detail?: string | undefined
  again?: () => void
}) {
  const error = useRouteError()
  const heading = title ?? (error instanceof Error ? error.message : words.frame.crashed)
  return (
    <main className="quiet">
      <h1>{heading}</h1>
      {detail ? <p>{detail}</p> : null}
      <p>
        {again ? <Button onClick={again}>{words.retry}</Button> : <a href="/walk">{words.frame.toWalk}</a>}
      </p>
    </main>
  )
}
