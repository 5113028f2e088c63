// Every page of the demo is rendered as liquidjs by itself renders it, to the byte.
import { afterAll, beforeAll, expect, it, vi } from 'vitest'
import { WHOLE_LIST } from '../../core/content/html/allow-list.ts'
import { ownFilters } from '../../core/templates/program/filters.ts'
import { DataNeeded } from '../../core/templates/scope.ts'
import { innermost } from '../../core/templates/failure.ts'
import { TemplateSet } from '../../core/templates/set.ts'
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
  let needed = 0
  vi.spyOn(TemplateSet.prototype, 'render').mockImplementation(function (this: TemplateSet, ...given) {
    const html = render.apply(this, given)
    const [page, names, globals, services] = given
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
  expect(pages).toBeGreaterThan(90)
  expect(needed).toBe(0)
  expect(compared.size).toBe([...sources.keys()].filter((name) => name.startsWith('pages/')).length)
})
