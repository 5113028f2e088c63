/** Finds forms that lead nowhere, and fields of search forms that change nothing, by sending them as a browser does. */
import { Parser } from 'htmlparser2'
import { crawl, type CrawledPage } from '../crawl.ts'
import type { Facts } from '../facts.ts'
import { frequentWords, pagedPosts } from '../further-pages.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { postedFormFindings } from '../posted-forms.ts'
import { pathOf } from '../page/addresses.ts'
import { readPage } from '../page/read-page.ts'
import type { FormField, ReadForm } from '../page/shape.ts'
import { routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'
import { isSearch } from '../../queries/meaning.ts'
import { matchRoute } from '../../routing/addresses/match.ts'

/** Options of a choice that are tried. */
const OPTIONS = 5
const TYPED = new Set(['text', 'search', ''])

interface Fault {
  kind: string
  title: string
  detail: string
  address: string
  text: string
  actual: string
  expected: string
  cause: string
  /** What the line of the template has that causes it. */
  near: RegExp
}

export const formWrong: Rule = {
  id: 'form-wrong',
  area: 'templates',
  meaning:
    'A form is sent to an address that does not answer it, or without its token, two buttons send the same or one sends nothing that is known, or what readers enter changes nothing or is forgotten.',
  why: 'Readers search or choose, and get an error, the same page, or an empty form.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const seen = new Set<string>()
    const findings: RuleFinding[] = []
    let tested = 0
    for (const page of pages.filter((one) => one.status === 200))
      for (const form of page.forms) {
        const key = keyOf(page, form)
        if (seen.has(key)) continue
        seen.add(key)
        // A dialog is not sent, and forms for comments have rules of their own.
        if (form.method === 'dialog' || (form.method === 'post' && isAnswered(facts, page, form))) continue
        tested++
        const fault = await faultOf(facts, page, form)
        if (fault) findings.push(describe(facts, page, form, fault))
      }
    findings.push(...postedFormFindings(facts))
    return {
      findings,
      claim: isComplete
        ? {
            sentence:
              'Every form leads to a page, and the search fields and choices that were tried change what it shows',
            tested,
            things: ['form', 'forms'],
          }
        : null,
    }
  },
}

/** The same form is on many pages: a search in the header, say. */
const keyOf = ({ route }: CrawledPage, { method, action, fields }: ReadForm) =>
  JSON.stringify([
    method,
    // The form of a post is sent to an address of the post.
    method === 'get' ? action : (route ?? ''),
    fieldsOf({ fields }),
  ])

/** Returns the path to which a form is sent; undefined for another site. */
const targetOf = ({ path }: CrawledPage, { action }: ReadForm) => pathOf(action === '' ? path : action, path)

function isAnswered({ definition }: Facts, page: CrawledPage, form: ReadForm): boolean {
  const target = targetOf(page, form)
  return target !== undefined && matchRoute(definition.table, 'POST', target).outcome === 'matched'
}

/** Matches the start tag of a form in a template. */
const startOf = ({ mark }: ReadForm): RegExp =>
  mark === '' ? /<form\b/ : new RegExp(`<form\\b[^>]*?\\b${literally(mark).source}`)

async function faultOf(facts: Facts, page: CrawledPage, form: ReadForm): Promise<Fault | undefined> {
  const { path } = page
  const target = targetOf(page, form)
  if (target === undefined) return undefined
  const near = startOf(form)
  if (form.method === 'post')
    return {
      kind: 'method',
      title: `A form on ${path} is sent to ${target} with POST, which nothing answers`,
      detail: 'Readers get an error when they send it.',
      address: path,
      text: `The form is sent to ${target} with POST`,
      actual: 'method="post"',
      expected: 'method="get"',
      cause: 'Only routes with an action answer POST. A form that searches is sent with GET.',
      near,
    }
  const asSent = await sent(facts, target, form, {})
  if (asSent.status >= 400)
    return {
      kind: 'action',
      title: `A form on ${path} is sent to ${target}, which answers ${asSent.status}`,
      detail: 'Readers get an error when they send it.',
      address: asSent.address,
      text: `The form on ${path} is sent there`,
      actual: String(asSent.status),
      expected: '200',
      cause: 'The action of the form is wrong. Use “url” with the name of the route.',
      near,
    }
  return (
    (await idleField(facts, page, form, target)) ??
    (await forgottenField(facts, page, form, { target, asSent }))
  )
}

/** Returns the fault of a form on its own page of results, which no longer has what was entered. */
async function forgottenField(
  facts: Facts,
  page: CrawledPage,
  form: ReadForm,
  { target, asSent }: { target: string; asSent: Sent },
): Promise<Fault | undefined> {
  // A form in the header of other pages, too, may be empty again, and so may a menu without words.
  if (asSent.route !== page.route || !form.fields.some((one) => TYPED.has(one.type))) return undefined
  const [word = ''] = await frequentWords(facts)
  const entered = form.fields.flatMap((one): [FormField, string][] => {
    const other = one.options.find((option) => option !== one.value)
    if (one.type === 'select') return other === undefined ? [] : [[one, other]]
    return TYPED.has(one.type) && word !== '' ? [[one, word]] : []
  })
  const values = Object.fromEntries(entered.map(([{ name }, value]) => [name, value]))
  const { address, forms } = await sent(facts, target, form, values)
  const same = forms.find((one) => fieldsOf(one) === fieldsOf(form))
  for (const [{ name, type }, value] of entered) {
    const after = same?.fields.find((one) => one.name === name)?.value
    if (after === undefined || after === value) continue
    const isChoice = type === 'select'
    return {
      kind: `forgotten ${name}`,
      title: `The form on ${page.path} forgets “${name}”`,
      detail: `With the results, the field shows ${after === '' ? 'nothing' : `“${after}”`} again.`,
      address,
      text: `“${value}” was ${isChoice ? 'chosen' : 'typed'} and sent`,
      actual: after === '' ? 'an empty field' : after,
      expected: value,
      cause: isChoice
        ? `Print “selected” in the option that was chosen: {% if request.params.${name} == '${value}' %} selected{% endif %}.`
        : `Print the words in the field: value="{{ request.params.${name} }}".`,
      near: literally(`name="${name}"`),
    }
  }
  return undefined
}

const fieldsOf = ({ fields }: Pick<ReadForm, 'fields'>) =>
  fields.map((one) => `${one.type} ${one.name}`).join()

async function idleField(
  facts: Facts,
  { path }: CrawledPage,
  form: ReadForm,
  target: string,
): Promise<Fault | undefined> {
  const words = await frequentWords(facts)
  const [word] = words
  const typed = form.fields.find((one) => TYPED.has(one.type))
  if (typed && word !== undefined) {
    const [empty, filled] = [
      await sent(facts, target, form, { [typed.name]: '' }),
      await sent(facts, target, form, { [typed.name]: word }),
    ]
    if (empty.shown === filled.shown)
      return idle(path, typed, filled.address, `typing “${word}” shows the same page as typing nothing`)
    const nothing = await findsNothing(facts, { path, target, form, field: typed, words })
    if (nothing) return nothing
  }
  const given = typed && word !== undefined ? { [typed.name]: word } : {}
  for (const field of form.fields.filter((one) => one.type === 'select')) {
    const options = [...new Set(field.options)].slice(0, OPTIONS)
    if (options.length < 3) continue
    const answers = []
    for (const option of options)
      answers.push(await sent(facts, target, form, { ...given, [field.name]: option }))
    const [first, ...others] = answers
    if (first && others.every((one) => one.shown === first.shown))
      return idle(
        path,
        field,
        others[0]?.address ?? target,
        `${options.map((one) => `“${one}”`).join(', ')} show the same page`,
      )
  }
  return undefined
}

const idle = (path: string, { name, type }: FormField, address: string, text: string): Fault => ({
  kind: `field ${name}`,
  title: `The field “${name}” of a form on ${path} changes nothing`,
  detail: `${text.charAt(0).toUpperCase()}${text.slice(1)}.`,
  address,
  text,
  actual: 'the same page',
  expected: 'another result',
  cause: `No query of the route reads “${name}”, ${type === 'select' ? 'its options are not the values that the query compares with, ' : ''}or its condition does not depend on it.`,
  near: literally(`name="${name}"`),
})

interface Search {
  /** The page with the form, and the path to which it is sent. */
  path: string
  target: string
  form: ReadForm
  field: FormField
  words: readonly string[]
}

/** Returns the fault of a search that finds none of the words of titles. */
async function findsNothing(
  facts: Facts,
  { path, target, form, field, words }: Search,
): Promise<Fault | undefined> {
  const addresses: string[] = []
  for (const word of words) {
    const { address, route } = await sent(facts, target, form, { [field.name]: word })
    const compiled = routeOf(facts, route ?? '')
    const paged = compiled && pagedPosts(facts, compiled)
    if (!paged || !isSearch(paged.meaning)) return undefined
    const run = (await facts.queriesAt(address)).find((one) => one.query === paged.query)
    if (!run || run.rows > 0) return undefined
    addresses.push(address)
  }
  const [first] = addresses
  return first === undefined
    ? undefined
    : {
        kind: 'nothing',
        title: `A search on ${path} finds nothing`,
        detail: `${words.map((one) => `“${one}”`).join(', ')} are words of titles of published posts.`,
        address: first,
        text: `The search for “${words[0] ?? ''}” has no results`,
        actual: '0 posts',
        expected: 'the posts with the word in their title',
        cause:
          'A condition of the query is never met, for example because its parameter is absent. Add “when: given”.',
        near: literally(`name="${field.name}"`),
      }
}

interface Sent {
  address: string
  status: number
  route: string | null
  /** What the page shows without its forms. */
  shown: string
  forms: readonly ReadForm[]
}

/** Sends a form with GET. @param values of some fields; the others have those of the page */
async function sent(
  facts: Facts,
  target: string,
  { fields }: ReadForm,
  values: Readonly<Record<string, string>>,
): Promise<Sent> {
  const search = new URLSearchParams()
  for (const { name, type, value } of fields)
    if (!['button', 'submit', 'checkbox', 'radio', 'image', 'reset'].includes(type))
      search.set(name, values[name] ?? value)
  const query = search.toString()
  let address = query === '' ? target : `${target}?${query}`
  let answer = await facts.request(address)
  for (let hop = 0; hop < 3 && answer.location?.startsWith('/'); hop++) {
    address = answer.location
    answer = await facts.request(address)
  }
  const { status, route, body } = answer
  return { address, status, route, shown: shownWithoutForms(body), forms: readPage(body).forms }
}

/** Returns the texts, tags and classes of a page without its forms. Links to other pages have what was entered, so they are left out. */
function shownWithoutForms(html: string): string {
  let inside = 0
  const texts: string[] = []
  const isLeftOut = (name: string) => name === 'form' || name === 'head' || name === 'script'
  const parser = new Parser({
    onopentag(name, attributes) {
      if (isLeftOut(name)) inside++
      else if (inside === 0) texts.push(`<${name} ${attributes['class'] ?? ''}>`)
    },
    onclosetag: (name) => void (isLeftOut(name) && inside--),
    ontext: (text) => void (inside === 0 && texts.push(text)),
  })
  parser.end(html)
  return texts.join('').replace(/\s+/g, ' ')
}

const describe = (facts: Facts, page: CrawledPage, form: ReadForm, fault: Fault): RuleFinding => ({
  subject: `${page.route ?? page.path} ${fault.kind}`,
  title: fault.title,
  detail: fault.detail,
  affects: 'now',
  witness: witness(fault.address, fault.text, fault.actual, fault.expected),
  cause: fault.cause,
  place:
    placeInTemplates(facts, page.route, fault.near) ?? placeInTemplates(facts, page.route, startOf(form)),
  others: [],
  fixes: [],
})
