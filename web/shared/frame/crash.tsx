/** What stands on the screen when there is nothing else to show. */
import { Button } from 'antd'
import { useRouteError } from 'react-router'

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
  const words = title ?? (error instanceof Error ? error.message : 'Something went wrong in the workbench')
  return (
    <main className="quiet">
      <h1>{words}</h1>
      {detail ? <p>{detail}</p> : null}
      <p>{again ? <Button onClick={again}>Try again</Button> : <a href="/walk">Back to the walk</a>}</p>
    </main>
  )
}
