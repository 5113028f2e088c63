// Attributes of elements, by the lists of the HTML and ARIA standards in html-element-attributes and aria-attributes.
import { htmlElementAttributes } from 'html-element-attributes'
import { expect, it } from 'vitest'
import { attributeFaults, templateAttributeFaults } from './html-attributes.ts'

it.each([
  ['article', { clss: 'card' }, 'class'],
  ['div', { hreff: '/a' }, null],
  ['p', { href: '/a' }, null],
  ['a', { href: '/a', rell: 'next' }, 'rel'],
  ['img', { scr: '/a.png', alt: '' }, null],
  ['img', { src: '/a.png' }, null],
  ['nav', { 'aria-labl': 'Pages' }, 'aria-label'],
  ['a', { href: '/a', rel: 'prv' }, 'prev'],
  ['link', { href: '/a.css', rel: 'stylsheet' }, 'stylesheet'],
  ['a', { class: 'kick' }, null],
  ['meta', { property: 'og:image' }, null],
] as const)('%s with %o has a fault, and %s is meant', (element, attributes, meant) => {
  const [fault, ...others] = attributeFaults(element, attributes)
  expect(others).toEqual([])
  expect(fault).toBeDefined()
  if (meant !== null) expect(fault?.meant).toBe(meant)
})

it.each([
  ['a', { href: '/a', rel: 'ugc nofollow noopener me' }],
  ['a', { id: 'here' }],
  ['a', { role: 'link', 'aria-disabled': 'true' }],
  ['div', { 'data-live': 'count', 'x-data': '{}', '@click': 'a', hidden: '', popover: '', inert: '' }],
  ['meta', { charset: 'utf-8' }],
  ['meta', { property: 'og:type', content: 'website' }],
  ['my-clock', { face: 'round' }],
  ['button', { onclick: 'a()' }],
  ['form', { action: '/a', method: 'post', novalidate: '', role: 'search' }],
  ['section', { typeof: 'BlogPosting', vocab: 'https://schema.org/', 'aria-labelledby': 'a' }],
] as const)('%s with %o has none', (element, attributes) =>
  expect(attributeFaults(element, attributes)).toEqual([]),
)

it('every attribute of the standard is known', () => {
  for (const [element, attributes] of Object.entries(htmlElementAttributes))
    for (const one of attributes)
      expect(
        attributeFaults(element === '*' ? 'div' : element, {
          id: 'a',
          content: 'a',
          href: '/',
          [one]: '',
        }).filter(({ attribute }) => attribute === one),
      ).toEqual([])
})

it.each([
  ['<article clss="card{% unless post.image %} no-image{% endunless %}">', 'clss'],
  ['<p {% if a > 1 %}hiden{% endif %} class="b">', 'hiden'],
  [`<a {{ attributes }} rel="prv" href="{{ 'post' | url }}">`, 'rel'],
  ['<p><label>Name</label> <input name="a"></p>', 'for'],
  ['{% if a < b %}<a class="x">y</a>{% endif %}', 'href'],
])('the template %s has a fault in %s', (template, attribute) =>
  expect(templateAttributeFaults(template).map((one) => one.attribute)).toEqual([attribute]),
)

it.each([
  '<a {% if one.path %}href="{{ one.path }}"{% endif %}>a</a>',
  '<label>Name <input name="a"></label><label for="b">B</label><label>{% render "partials/field" %}</label>',
  '<a {{ attributes }}>a</a><meta name="a" {{ content }}>',
  '<li data-{{ key }}="1" {{ key }}-x="2" class={{ name }}>',
  '<svg viewBox="0 0 1 1"><path d="M0 0" strokeWidth="1"/></svg>',
  '<!-- <p clss="a"> --><script>if (a < b && c > d) x</script>',
  '<input name="q" value="{{ a }}"{% if b %} required{% endif %}{% if c %} aria-invalid="true"{% endif %}>',
])('the template %s has none', (template) => expect(templateAttributeFaults(template)).toEqual([]))

it('a long template is read in one go', () => {
  const template = '<a "'.repeat(30_000) + '<!-- '.repeat(30_000) + '{% if a %}<p x'.repeat(10_000)
  expect(Array.isArray(templateAttributeFaults(template))).toBe(true)
})
