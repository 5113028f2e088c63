// Every page of the demo is rendered as liquidjs by itself renders it, to the byte, from values of the types that the
// analysis of templates gives them.
import { afterAll, beforeAll, expect, it, vi } from 'vitest'
import { typedPages } from '../../core/blog/data-types.ts'
import { SafeHtml } from '../../core/content/html/safe-html.ts'
import { WHOLE_LIST } from '../../core/content/html/allow-list.ts'
import { ownFilters } from '../../core/templates/program/filters.ts'
import { DataNeeded } from '../../core/templates/scope.ts'
import { innermost } from '../../core/templates/failure.ts'
import { TemplateSet } from '../../core/templates/set.ts'
import { typeInWords, UNKNOWN, type Type } from '../../core/templates/types/type.ts'
import { referenceEngine } from '../../core/testing/reference-engine.ts'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { everyAddress } from './addresses/real-addresses.ts'
import { answer } from './answer.ts'
import { internalRequest } from './request.ts'

let test: TestBlog
beforeAll(async () => {
  test = await testBlog({ fragments: 'off' })
})
afterAll(() => test.close())

/** What all templates see, but what is only loaded where it is read. */
const LOADED_LATER = ['form', 'navigation', 'nearest']

/** Yields what of a value is not of its type. */
function* unlike(value: unknown, type: Type, path: string): Generator<string> {
  if (type.kind === 'unknown') return
  if (value === null || value === undefined) {
    if (type.kind !== 'nothing' && type.canBeEmpty !== true) yield `${path} is empty`
    return
  }
  if (type.kind === 'list' && Array.isArray(value)) {
    for (const one of value) yield* unlike(one, type.of, `${path}[]`)
  } else if (type.kind === 'row' && typeof value === 'object' && !Array.isArray(value)) {
    for (const [name, field] of Object.entries(value)) {
      const known = type.fields.get(name)
      if (known) yield* unlike(field, known, `${path}.${name}`)
      else yield `${path} has ${name}`
    }
  } else if (kindOf(value) !== type.kind) yield `${path} is ${typeof value}, not ${typeInWords(type)}`
}

function kindOf(value: unknown): string {
  if (value instanceof Date) return 'date'
  if (value instanceof SafeHtml) return 'html'
  return typeof value === 'string' ? 'text' : Array.isArray(value) ? 'list' : typeof value
}

it('every page of the demo is rendered as liquidjs renders it', async () => {
  const { blog } = test
  const { templates, settings } = blog.site.definition
  const sources = new Map(
    [...templates.mentions()].map(([name]) => [name, templates.text(name) ?? ''] as const),
  )
  const language = { language: settings.language }
  const reference = referenceEngine(sources, ownFilters(settings['time-zone'] ?? 'UTC', WHOLE_LIST, language))
  const render = TemplateSet.prototype.render
  const compared = new Set<string>()
  const different: [string, string, string][] = []
  const mistyped = new Set<string>()
  const types = new Map([...typedPages(blog.site.definition)].map((one) => [one.page, one]))
  let needed = 0
  vi.spyOn(TemplateSet.prototype, 'render').mockImplementation(function (this: TemplateSet, ...given) {
    const html = render.apply(this, given)
    const [page, names, globals, services] = given
    const { data = new Map<string, Type>(), globals: shared = new Map<string, Type>() } =
      types.get(page) ?? {}
    for (const name of data.keys())
      if (services.data.isLoaded(name))
        for (const one of unlike(
          services.data.get(name).value,
          data.get(name) ?? UNKNOWN,
          `${page}: ${name}`,
        ))
          mistyped.add(one)
    for (const [name, type] of shared)
      if (!LOADED_LATER.includes(name) || services.data.isLoaded(name))
        for (const one of unlike((globals as Record<string, unknown>)[name], type, name)) mistyped.add(one)
    try {
      const wanted = reference(page, services.data.asScope(names), globals, services)
      if (html !== wanted) different.push([page, html, wanted])
      compared.add(page)
    } catch (error) {
      // liquidjs evaluates arguments of partials that are not read.
      if (!(innermost(error) instanceof DataNeeded)) throw error
      needed++
    }
    return html
  })
  let pages = 0
  const request = async (target: string) => {
    const { status } = await answer(blog, internalRequest(target))
    expect(status, target).toBeLessThan(500)
    pages++
  }
  for (const compiled of blog.site.definition.routes)
    if (compiled.method === 'GET')
      for await (const { path } of everyAddress(blog, blog.site, compiled, { limit: 40 })) await request(path)
  for (const target of ['/posts?page=3', '/search?q=wheel', '/category/electrical?page=2', '/nothing-here'])
    await request(target)
  expect(different).toEqual([])
  expect([...mistyped]).toEqual([])
  expect(pages).toBeGreaterThan(90)
  expect(needed).toBe(0)
  expect(compared.size).toBe([...sources.keys()].filter((name) => name.startsWith('pages/')).length)
})
