// Targets of redirect routes.
import { expect, it } from 'vitest'
import { DEFAULT_POLICY } from './address.ts'
import { redirectNeedsData, redirectReferences, redirectTarget } from './redirect.ts'

it.each([
  ['/posts/:slug', 'a%20b', '', '/posts/a%20b'],
  ['/posts/:slug', 'a', 'page=2', '/posts/a?page=2'],
  ['/posts?from=:slug', 'a', 'page=2', '/posts?from=a'],
  ['/posts/:slug#comments', 'a', 'x=1', '/posts/a?x=1#comments'],
  ['/posts/:slug/', 'A', '', '/posts/a'],
  ['https://old.example:8080/:slug', 'a', '', 'https://old.example:8080/a'],
  ['/somewhere', 'a', '', '/somewhere'],
])('%s with “%s” and “%s” is %s', (to, slug, query, expected) => {
  expect(redirectTarget(to, [{ name: 'slug', raw: slug }], query, DEFAULT_POLICY)).toBe(expected)
})

it('finds the parameters in a target and does not mistake a port for one', () => {
  expect(redirectReferences('/a/:b/:c_d').parameters).toEqual(['b', 'c_d'])
  expect(redirectReferences('https://x.example:8080/:a').parameters).toEqual(['a'])
})

it('finds the fields of data in a target, and what follows a parameter is none', () => {
  const data = { post: 'post-by-number' }
  expect(redirectReferences('/:year/:post.slug/:post.category.slug.html', data)).toEqual({
    parameters: ['year'],
    fields: ['post.slug', 'post.category.slug.html'],
  })
  expect(redirectReferences('/feeds/:name.xml', data)).toEqual({ parameters: ['name'], fields: [] })
  expect(redirectNeedsData({ redirect: { to: '/:post.slug' }, data })).toBe(true)
  expect(redirectNeedsData({ redirect: { to: '/:name.xml' }, data })).toBe(false)
})

it.each([
  ['/posts/:post.slug', 'a', '/posts/a'],
  ['/posts/:post.slug', 'a b/c?d#e', '/posts/a%20b/c%3Fd%23e'],
  ['/x/:name.xml', 'unused', '/x/n.xml'],
  ['/posts/:post.slug', '//other.example', '/other.example'],
  ['/:post.slug', '/other.example', '/other.example'],
  ['/:post.slug', '\\\\other.example', '%5C%5Cother.example'],
])('%s with the field “%s” is %s', (to, value, expected) => {
  const target = redirectTarget(
    to,
    [{ name: 'name', raw: 'n' }],
    '',
    DEFAULT_POLICY,
    new Map([['post.slug', value]]),
  )
  expect(target).toContain(expected)
  expect(new URL(target, 'http://blog.test').host).toBe('blog.test')
})
