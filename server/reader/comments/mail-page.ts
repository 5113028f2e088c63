/**
 * The page of a subscription, to which e-mails link. Mail programs may open links on their own, so nothing changes until a
 * button is pressed. One-click unsubscription (RFC 8058) posts to the same address, without a question.
 */
import type { CursorKeyPort, DatabasePort } from '../../publish/ports.ts'
import { answerSubscription, subscriptionForPage } from '../../store/content/mail.ts'
import { errorPage, type ErrorPorts } from '../error-pages.ts'
import { plainPage } from '../plain-pages.ts'
import type { BlogRequest } from '../request.ts'
import { PLAIN_FORM_HEADERS, type BlogResponse } from '../responses.ts'
import { readSubscription } from './mail-links.ts'

const ANSWERS = ['confirm', 'stop', 'stop-all'] as const

/** @param name the last part of the path */
export async function subscriptionPage(
  ports: ErrorPorts & CursorKeyPort & DatabasePort,
  request: BlogRequest,
  name: string,
): Promise<BlogResponse> {
  const { manager } = ports.database
  const id = readSubscription(ports, name)
  let found = id === undefined ? undefined : await subscriptionForPage(manager, id)
  if (!found)
    return errorPage(ports, {
      status: 404,
      title: 'mail-page-title',
      text: 'mail-page-gone',
      headers: { 'cache-control': 'no-store' },
    })
  if (request.method === 'POST') {
    const form = await request.form()
    if (!form.ok)
      return errorPage(ports, { status: form.status, title: 'form-unreadable-title', text: 'form-type-text' })
    // RFC 8058 §3.1.
    const wanted = form.fields['List-Unsubscribe'] === 'One-Click' ? 'stop' : form.fields['do']
    const does = ANSWERS.find((one) => one === wanted)
    if (does) await answerSubscription(manager, found.id, does)
    found = (await subscriptionForPage(manager, found.id)) ?? found
  }
  const { say, settings } = ports.site.definition
  const state = found.endedAt ? 'off' : found.confirmedAt ? 'on' : 'ask'
  const buttons = { ask: ['confirm', 'stop'], on: ['stop', 'stop-all'], off: ['confirm'] } as const
  return {
    status: 200,
    headers: { ...PLAIN_FORM_HEADERS, 'cache-control': 'no-store', 'referrer-policy': 'no-referrer' },
    body: plainPage({
      title: say('mail-page-title'),
      text: say(`mail-page-${state}`, { address: masked(found.email), title: found.title }),
      buttons: buttons[state].map((does) => [does, say(`mail-do-${does}`)]),
      home: say('front-page'),
      language: settings.language ?? 'en',
    }),
    route: null,
    fragments: [],
  }
}

/** Masks an address, so that a forwarded link does not reveal it. */
const masked = (email: string): string => email.replace(/^(.)[^@]*/, '$1…')
