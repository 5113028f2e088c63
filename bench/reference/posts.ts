/** /posts of the demo, written by hand: the same queries and the same HTML with Hono, pg and template literals. */
import { Hono } from 'hono'
import type pg from 'pg'

const escape = (text: string) => text.replace(/[&<>"']/g, (char) => `&#${char.charCodeAt(0)};`)
const SIZE = 6

interface Card {
  id: number
  title: string
  slug: string
  excerpt: string
  published_at: Date
  category_name: string | null
  category_slug: string | null
  author_name: string | null
  image_name: string | null
  image_width: number
  image_height: number
  comments: string
}
const dates = new Intl.DateTimeFormat('en-GB', {
  timeZone: 'Europe/London',
  day: 'numeric',
  month: 'long',
  year: 'numeric',
})
const cut = (text: string, limit: number) =>
  text.length <= limit ? text : `${text.slice(0, limit + 1).replace(/\s+\S*$/, '')}…`

const card = (p: Card) => `
<article class="card${p.image_name ? '' : ' no-image'}">
  ${p.image_name ? `<a class="picture" href="/posts/${p.slug}" tabindex="-1" aria-hidden="true"><img src="/media/${escape(p.image_name)}" width="${p.image_width}" height="${p.image_height}" alt="" loading="lazy"></a>` : ''}
  <div>
    ${p.category_slug ? `<a class="kick" href="/category/${p.category_slug}">${escape(p.category_name ?? '')}</a>` : ''}
    <h2><a href="/posts/${p.slug}">${escape(p.title)}</a></h2>
    <p>${escape(cut(p.excerpt, 120))}</p>
    <p class="meta"><time datetime="${p.published_at.toISOString()}">${dates.format(p.published_at)}</time> · ${escape(p.author_name ?? '')} · ${p.comments} ${p.comments === '1' ? 'comment' : 'comments'}</p>
  </div>
</article>`

export function referenceApp(pool: pg.Pool): Hono {
  const app = new Hono()
  app.get('/posts', async (context) => {
    const page = Math.max(1, Number(context.req.query('page') ?? 1) || 1)
    const [items, total, navigation, categories, comments] = await Promise.all([
      pool.query<Card>({
        name: 'items',
        text: `SELECT p.id, p.title, p.slug, p.excerpt, p.published_at, c.name AS category_name, c.slug AS category_slug,
          a.name AS author_name, i.name AS image_name, i.width AS image_width, i.height AS image_height,
          (SELECT count(*) FROM comment k WHERE k.post_id = p.id AND k.state = 'shown') AS comments
          FROM post p LEFT JOIN category c ON c.id = p.category_id LEFT JOIN author a ON a.id = p.author_id LEFT JOIN image i ON i.id = p.image_id
          WHERE p.published_at <= now() ORDER BY p.published_at DESC, p.id DESC LIMIT ${SIZE} OFFSET $1`,
        values: [(page - 1) * SIZE],
      }),
      pool.query<{ total: string }>({
        name: 'total',
        text: 'SELECT count(*) AS total FROM post WHERE published_at <= now()',
      }),
      pool.query<{ title: string; path: string }>({
        name: 'navigation',
        text: 'SELECT title, path FROM page WHERE in_navigation ORDER BY position, id',
      }),
      pool.query<{ name: string; slug: string; posts: string }>({
        name: 'categories',
        text: 'SELECT c.name, c.slug, (SELECT count(*) FROM post p WHERE p.category_id = c.id AND p.published_at <= now()) AS posts FROM category c ORDER BY c.position, c.name',
      }),
      pool.query<{ id: number; name: string; text: string; title: string; slug: string }>({
        name: 'comments',
        text: "SELECT k.id, k.name, k.text, p.title, p.slug FROM comment k JOIN post p ON p.id = k.post_id WHERE k.state = 'shown' AND p.published_at <= now() ORDER BY k.created_at DESC, k.id DESC LIMIT 3",
      }),
    ])
    const count = Math.ceil(Number(total.rows[0]?.total ?? 0) / SIZE)
    const links = Array.from({ length: count }, (_, index) => index + 1).map((n) =>
      n === page
        ? `<b aria-current="page">${n}</b>`
        : `<a href="/posts${n === 1 ? '' : `?page=${n}`}">${n}</a>`,
    )
    return context.html(`<!doctype html>
<html lang="en-GB">
<head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>Journal · Cobble Lane Repair Café</title>
<meta name="description" content="The journal of a volunteer repair café"><link rel="stylesheet" href="/assets/blog.css"></head>
<body><a class="skip" href="#content">Skip to content</a>
<header class="top"><div class="wrap"><a class="brand" href="/">Cobble Lane Repair Café</a><nav aria-label="Main"><a href="/posts" aria-current="page">Journal</a>
${navigation.rows.map((one) => `<a href="/${one.path}">${escape(one.title)}</a>`).join('\n')}</nav></div></header>
<div class="wrap cols"><main id="content"><h1 class="section">Journal</h1>
${items.rows.map(card).join('\n')}
<nav class="pager" aria-label="Pages">${links.join('')}<span class="range">Posts ${(page - 1) * SIZE + 1} to ${(page - 1) * SIZE + items.rows.length} of ${total.rows[0]?.total ?? 0}</span></nav></main>
<aside class="side"><section><h2>Categories</h2><ul class="counts">
${categories.rows.map((one) => `<li><a href="/category/${one.slug}">${escape(one.name)}</a> <span>${one.posts}</span></li>`).join('\n')}</ul></section>
<section><h2>Latest comments</h2>
${comments.rows.map((one) => `<p class="said"><b>${escape(one.name)}</b> on <a href="/posts/${one.slug}#comment-${one.id}">${escape(one.title)}</a>: “${escape(cut(one.text, 70))}”</p>`).join('\n')}</section></aside></div>
<footer class="foot"><div class="wrap"><p><strong>Cobble Lane Repair Café</strong> · The journal of a volunteer repair café</p></div></footer></body></html>`)
  })
  return app
}
