/** The form of a commenter in the Walk area: its fields, how it is sent, and whether it is kept. */
import { Button, Checkbox, Input, InputNumber, Select } from 'antd'
import { words } from '../words.ts'
import type { Submission, Typed } from './use-submission.ts'
import './submission-form.css'

const text = words.submission

export function SubmissionForm({ submission }: { submission: Submission }) {
  const { typed, type, isBusy, send, reset, walked, problem } = submission
  const field = (name: 'name' | 'email' | 'site' | 'parent' | 'client') => (
    <div className="form-field">
      <label htmlFor={`comment-${name}`}>{text.fields[name]}</label>
      <Input
        id={`comment-${name}`}
        size="small"
        value={typed[name]}
        placeholder={text.placeholders[name]}
        autoComplete="off"
        onChange={(event) => type({ [name]: event.target.value })}
      />
    </div>
  )
  /** @param labels of the values, by value */
  const choice = <Name extends 'writer' | 'token'>(name: Name, labels: Record<Typed[Name], string>) => (
    <div className="form-field">
      <label htmlFor={`comment-${name}`}>{text.fields[name]}</label>
      <Select
        id={`comment-${name}`}
        size="small"
        value={typed[name]}
        onChange={(value) => type({ [name]: value })}
        options={Object.entries<string>(labels).map(([value, label]) => ({ value, label }))}
      />
    </div>
  )
  return (
    <form
      className="submission-form"
      aria-label={text.form}
      onSubmit={(event) => {
        event.preventDefault()
        send(false)
      }}
    >
      <div className="form-row">
        {field('name')}
        {field('email')}
        {field('site')}
      </div>
      <div className="form-field">
        <label htmlFor="comment-text">{text.fields.text}</label>
        <Input.TextArea
          id="comment-text"
          size="small"
          autoSize={{ minRows: 2, maxRows: 5 }}
          value={typed.text}
          onChange={(event) => type({ text: event.target.value })}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) send(false)
          }}
        />
      </div>
      <div className="form-row">
        {field('parent')}
        {field('client')}
        <div className="form-field">
          <label htmlFor="comment-seconds">{text.fields.seconds}</label>
          <InputNumber
            id="comment-seconds"
            size="small"
            min={0}
            max={700_000}
            precision={0}
            value={typed.seconds}
            onChange={(seconds) => type({ seconds: seconds ?? 0 })}
          />
        </div>
        {choice('writer', text.writers)}
        {choice('token', text.tokens)}
      </div>
      <div className="form-row actions">
        <Button size="small" htmlType="submit" loading={isBusy} title={text.rehearseHint}>
          {text.rehearse}
        </Button>
        <Button size="small" disabled={isBusy} onClick={() => send(true)} title={text.sendHint}>
          {text.send}
        </Button>
        <Checkbox
          checked={typed.isHoneypotFilled}
          onChange={(event) => type({ isHoneypotFilled: event.target.checked })}
        >
          {text.fields.honeypot}
        </Checkbox>
        <span className="grow" />
        {walked ? (
          <button type="button" className="link" onClick={reset}>
            {text.back}
          </button>
        ) : null}
      </div>
      {problem === null ? null : (
        <p role="alert" className="problem">
          {problem}
        </p>
      )}
    </form>
  )
}
