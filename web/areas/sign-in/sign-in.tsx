/** Asks for the access key. */
import { Alert, Button, Input } from 'antd'
import { useEffect, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import { ApiProblem, keepSecret, send } from '../../api/client.ts'
import { words } from './words.ts'
import './sign-in.css'

/** Opens a session, and keeps its secret for this origin. */
async function openSession(key: string): Promise<void> {
  const { secret } = (await send('POST', '/api/sign-in', { key })) as { secret: string }
  keepSecret(secret)
}

/** Signs in with the key of the printed address, and removes it from the address and from the history. */
export function SignInByAddress() {
  const [parameters] = useSearchParams()
  const key = parameters.get('key')
  const [problem, setProblem] = useState<ApiProblem['details'] | null>(null)
  const isBegun = useRef(false)
  useEffect(() => {
    if (key === null || isBegun.current) return
    isBegun.current = true
    openSession(key).then(
      () => window.location.replace('/walk'),
      (error: unknown) => {
        window.history.replaceState(null, '', '/sign-in')
        if (error instanceof ApiProblem) setProblem(error.details)
      },
    )
  }, [key])
  if (key === null || problem !== null) return <SignIn wrong={problem} />
  return (
    <div className="quiet" role="status">
      {words.signingIn}
    </div>
  )
}

/** @param wrong why the key of the address was not accepted */
export function SignIn({ wrong = null }: { wrong?: ApiProblem['details'] | null }) {
  const [key, setKey] = useState('')
  const [problem, setProblem] = useState<ApiProblem['details'] | null>(wrong)
  const signIn = async () => {
    try {
      await openSession(key.trim())
      window.location.assign('/walk')
    } catch (error) {
      if (error instanceof ApiProblem) setProblem(error.details)
    }
  }
  return (
    <main className="sign-in">
      <form
        onSubmit={(event) => {
          event.preventDefault()
          void signIn()
        }}
      >
        <span className="logo">ESQUINA</span>
        <h1>{words.title}</h1>
        <p>{words.help}</p>
        <label htmlFor="key">{words.key}</label>
        <Input.Password
          id="key"
          autoFocus
          value={key}
          onChange={(event) => setKey(event.target.value)}
          autoComplete="current-password"
        />
        {problem ? <Alert type="error" title={problem.title} description={problem.detail} /> : null}
        <Button type="primary" htmlType="submit" disabled={key.trim() === ''}>
          {words.signIn}
        </Button>
      </form>
    </main>
  )
}
