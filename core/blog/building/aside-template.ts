/** The aside below each page: what the blog is about, its categories with counts, its months, and the latest comments. */
import type { AsideData, Features } from './features.ts'
import { categoryAddress, lines, linked, postAddress } from './markup.ts'

/** The tag of the layout that shows it. */
export const asideTag = ({ categories, months, comments }: AsideData): string => {
  const given = [categories, months, comments].flatMap((name) =>
    name === undefined ? [] : [`${name}: ${name}`],
  )
  return `  {% render 'partials/aside'${given.map((one) => `, ${one}`).join('')} %}`
}

const section = (rows: string, heading: string, list: string) => `    {% if ${rows}.size > 0 %}
    <section>
      <h2>${heading}</h2>
${list}
    </section>
    {% endif %}`

/** The class of the aside that a step adds below each page. */
export const BELOW_PAGE = 'below-page'

export const aside = (has: Features): string => {
  const { categories, months, comments } = has.aside ?? {}
  const { month } = has
  const monthAddress =
    month &&
    `{{ '${month.route.name}' | url: ${month.year}: one.publishedYear, ${month.month}: one.publishedMonth }}`
  return lines(
    `<aside class="side ${BELOW_PAGE}" aria-label="About this blog">
  <div class="wrap">
    <section>
      <h2>About</h2>
      <p class="said">{{ blog.tagline | default: blog.title }}</p>
    </section>`,
    categories &&
      section(
        categories,
        'Categories',
        `      <ul class="counts">
        {% for one in ${categories} %}
        <li>${linked(categoryAddress(has, 'one'), '{{ one.name }}')} <span>{{ one.postCountWithin }}</span></li>
        {% endfor %}
      </ul>`,
      ),
    months &&
      section(
        months,
        'By month',
        `      <ul class="counts">
        {% for one in ${months} limit: 12 %}
        <li>${linked(monthAddress, "{% render 'partials/month-name', year: one.publishedYear, month: one.publishedMonth %}")} <span>{{ one.count }}</span></li>
        {% endfor %}
      </ul>`,
      ),
    comments &&
      section(
        comments,
        'Latest comments',
        `      {% for one in ${comments} %}
      <p class="said"><b><bdi>{{ one.name }}</bdi></b> on ${linked(postAddress(has, 'one.post'), '{{ one.post.title }}')}: “{{ one.text | excerpt: 70 }}”</p>
      {% endfor %}`,
      ),
    `  </div>
</aside>`,
  )
}
