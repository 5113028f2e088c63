import { expect, it } from 'vitest'
import { repeatedElements } from './repeated-elements.ts'

it.each([
  ['<h2>More</h2><h2>More</h2>', 'h2'],
  ['<div>\n  <p class="a">{{ post.title }}</p>\n  <p class="a">{{ post.title }}</p>\n</div>', 'p'],
  ['{% if a > 1 %}<nav><a href="/">Home</a> <a href="/">Home</a></nav>{% endif %}', 'a'],
  ['<div class="says">{{ comment.html }}</div><div class="says">{{ comment.html }}</div>', 'div'],
  ['<p role="status"></p><p role="status"></p>', 'p'],
  ['<br><section><p>a</p></section>\n<section><p>a</p></section>', 'section'],
])('%s repeats <%s>', (template, name) =>
  expect(repeatedElements(template).map((one) => one.name)).toEqual([name]),
)

it.each([
  '<p>a</p><p>b</p>',
  '{% if a %}<p>a</p>{% else %}<p>a</p>{% endif %}',
  '<tr><td>1</td><td>1</td></tr>',
  '<i class="dot"></i><i class="dot"></i><b>·</b><b>·</b>',
  '<li></li><li></li>',
  '<p>a</p>, <p>a</p>',
  '<!-- <p>a</p><p>a</p> -->',
  '<pre><p>a</p><p>a</p></pre>',
  '<p>a</p><div><p>a</p></div>',
])('%s repeats nothing', (template) => expect(repeatedElements(template)).toEqual([]))

it('a long template is read in one go', () => {
  const template = `${'<p>{{ a }}</p><div>'.repeat(20_000)}${'</div>'.repeat(20_000)}`
  expect(repeatedElements(template)).toEqual([])
})
