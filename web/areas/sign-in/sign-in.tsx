/** Asks for the access key. */
import { Alert, Button, Input } from 'antd'
import { useState } from 'react'
import { ApiProblem, send } from '../../api/client.ts'
import { words } from './words.ts'
import './sign-in.css'

export function SignIn() {
  const [key, setKey] = useState('')
  const [problem, setProblem] = useState<ApiProblem['details'] | null>(null)
  const signIn = async () => {
    try {
      await send('POST', '/api/sign-in', { key: key.trim() })
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
