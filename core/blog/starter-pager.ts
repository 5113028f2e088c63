/** The pager partial of drafted listings. Once created, it is an ordinary partial of the blog. */

/**
 * A labelled list of links to the pages of a numbered or cursor listing, which it receives as `paged`. A list that is not
 * sorted by date passes other texts of the links as `newer` and `older`.
 */
export const STARTER_PAGER = `{% if paged.by == 'cursor' %}
{% if paged.previous or paged.next or paged.first %}
<nav class="pager" aria-label="Pages">
  {% if paged.first %}<a href="{{ paged.first.url }}">Newest</a>{% endif %}
  {% if paged.previous %}<a rel="prev" href="{{ paged.previous.url }}">{{ newer | default: 'Newer' }}</a>{% endif %}
  {% if paged.next %}<a rel="next" href="{{ paged.next.url }}">{{ older | default: 'Older' }}</a>{% endif %}
</nav>
{% endif %}
{% elsif paged.pageCount > 1 %}
<nav class="pager" aria-label="Pages">
  {% if paged.previous %}<a rel="prev" href="{{ paged.previous.url }}">{{ newer | default: 'Newer' }}</a>{% endif %}
  {% for entry in paged.pages %}{% if entry.gap %}<span class="gap" aria-hidden="true">…</span>{% elsif entry.current %}<b aria-current="page">{{ entry.number }}</b>{% else %}<a href="{{ entry.url }}" aria-label="Page {{ entry.number }}">{{ entry.number }}</a>{% endif %} {% endfor %}
  {% if paged.next %}<a rel="next" href="{{ paged.next.url }}">{{ older | default: 'Older' }}</a>{% endif %}
  <span class="range">Posts {{ paged.from }} to {{ paged.to }} of {% if paged.isEstimated %}about {% endif %}{{ paged.total }}</span>
</nav>
{% elsif paged.total > 0 %}
<p class="range alone">Posts {{ paged.from }} to {{ paged.to }} of {{ paged.total }}</p>
{% endif %}
`

/**
 * Finds the blog's pager: a partial named `pager` that reads `paged`.
 * @returns its name, and whether it has to be created
 */
export function pagerFor(documents: ReadonlyMap<string, string>): { name: string; isNew: boolean } {
  for (let number = 1; ; number++) {
    const name = `partials/${number === 1 ? 'pager' : `pager-${number}`}`
    const text = documents.get(`templates/${name}.liquid`)
    if (text === undefined || /\bpaged\b/.test(text)) return { name, isNew: text === undefined }
  }
}
