/** How fast templates are rendered: a list of 20 cards, beside liquidjs by itself and a template literal written by hand. */
import { NOTHING } from '../core/caching/dependence.ts'
import { FragmentSession } from '../core/caching/session.ts'
import { WHOLE_LIST } from '../core/content/html/allow-list.ts'
import { escapeHtml } from '../core/content/html/safe-html.ts'
import { ownFilters } from '../core/templates/program/filters.ts'
import { RenderData, type RenderServices } from '../core/templates/scope.ts'
import { TemplateSet } from '../core/templates/set.ts'
import { NO_TEMPLATE_TRACER } from '../core/templates/tracer.ts'
import { referenceEngine } from '../core/testing/reference-engine.ts'

const CARDS = 20
const TIME_ZONE = 'Europe/London'

const posts = Array.from({ length: CARDS }, (_, index) => ({
  slug: `post-${index}`,
  title: `Mending a kettle & a lamp ${index}`,
  excerpt: 'What came to the table this week, and what went home in working order. '.repeat(2),
  publishedAt: new Date(Date.UTC(2026, 1, index + 1, 9)),
  commentCount: index % 3,
  author: { name: 'A helper' },
  category: index % 2 ? { slug: 'lamps', name: 'Lamps' } : null,
}))
type Post = (typeof posts)[number]

const SOURCES = new Map([
  [
    'pages/list',
    "<ul>{% for post in posts %}<li>{% render 'partials/card', post: post %}</li>{% endfor %}</ul>",
  ],
  [
    'partials/card',
    `<article>
  {% if post.category %}<a href="{{ 'category' | url: category: post.category.slug }}">{{ post.category.name }}</a>{% endif %}
  <h2><a href="{{ 'post' | url: slug: post.slug }}">{{ post.title }}</a></h2>
  <p>{{ post.excerpt }}</p>
  <p><time datetime="{{ post.publishedAt }}">{{ post.publishedAt | date: '%-d %B %Y' }}</time> · {{ post.author.name }} · {{ post.commentCount }} {% if post.commentCount == 1 %}comment{% else %}comments{% endif %}</p>
</article>`,
  ],
])

const addressOf = (route: string, given: Readonly<Record<string, unknown>>) =>
  `/${route}/${String(given['slug'] ?? given['category'])}`

const days = new Map<number, string>()
const format = new Intl.DateTimeFormat('en-GB', { dateStyle: 'long', timeZone: TIME_ZONE })
/** Returns a date in words. Dates are remembered, as the filter does. */
function dayOf(at: Date): string {
  const known = days.get(at.getTime())
  if (known !== undefined) return known
  const made = format.format(at)
  days.set(at.getTime(), made)
  return made
}

const cardByHand = (post: Post) => `<article>
  ${post.category ? `<a href="${escapeHtml(addressOf('category', { category: post.category.slug }))}">${escapeHtml(post.category.name)}</a>` : ''}
  <h2><a href="${escapeHtml(addressOf('post', { slug: post.slug }))}">${escapeHtml(post.title)}</a></h2>
  <p>${escapeHtml(post.excerpt)}</p>
  <p><time datetime="${post.publishedAt.toISOString()}">${escapeHtml(dayOf(post.publishedAt))}</time> · ${escapeHtml(post.author.name)} · ${post.commentCount} ${post.commentCount === 1 ? 'comment' : 'comments'}</p>
</article>`
const byHand = () => `<ul>${posts.map((post) => `<li>${cardByHand(post)}</li>`).join('')}</ul>`

const ROUNDS = 7

/** Returns the microseconds that each takes: medians of rounds in which they take turns. */
export function templateFigures(): { program: number; liquid: number; hand: number } {
  const data = new RenderData(['posts'], (name) => name)
  data.provide('posts', { value: posts, dependence: NOTHING })
  const services: RenderServices = {
    data,
    definition: { state: () => '' },
    fragments: new FragmentSession(undefined, 0),
    refreshOf: () => 'both',
    described: {
      blog: { title: 'Blog', tagline: '', origin: '', language: 'en' },
      addressOf: () => undefined,
    },
    now: new Date(),
    url: (route, given) => ({ ok: true, path: addressOf(route, given) }),
    asset: (name) => name,
    request: { path: '/', search: new URLSearchParams() },
    tracer: NO_TEMPLATE_TRACER,
    processorTime: () => process.cpuUsage().user / 1_000,
  }
  const set = TemplateSet.of(SOURCES, TIME_ZONE)
  const reference = referenceEngine(SOURCES, ownFilters(TIME_ZONE, WHOLE_LIST, {}))
  const measured = [
    { render: () => set.render('pages/list', ['posts'], {}, services), times: 2_000, rounds: [] as number[] },
    { render: () => reference('pages/list', { posts }, {}, services), times: 100, rounds: [] as number[] },
    { render: byHand, times: 2_000, rounds: [] as number[] },
  ]
  const [wanted] = measured.map((one) => one.render())
  for (const { render } of measured) if (render() !== wanted) throw new Error('They render different pages.')
  for (let round = 0; round < ROUNDS; round++)
    for (const { render, times, rounds } of measured) {
      const start = performance.now()
      for (let time = 0; time < times; time++) render()
      rounds.push(((performance.now() - start) / times) * 1_000)
    }
  const [program = 0, liquid = 0, hand = 0] = measured.map(
    ({ rounds }) => rounds.sort((a, b) => a - b)[Math.floor(ROUNDS / 2)] ?? 0,
  )
  return { program, liquid, hand }
}
