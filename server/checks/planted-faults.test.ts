// Faults that people make in routes, queries, templates, styles and forms are found, with a witness that holds.
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { Finding } from '../../core/checks/finding.ts'
import { PLANTED_RULES, runRulesOf } from '../testing/checks.ts'
import { applySteps, restoreTexts, saveTexts } from '../testing/edits.ts'
import { loadDocuments } from '../publish/documents.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

let test: TestWorkbench
let stored: Map<string, string>
beforeAll(async () => {
  test = await testWorkbench()
  stored = await loadDocuments(test.database)
})
afterAll(() => test.close())
afterEach(() => restoreTexts(test.blog, stored))

const BASE = 'templates/layouts/base.liquid'
const CARD = 'templates/partials/card.liquid'
const ASIDE = 'templates/partials/aside.liquid'
const POST = 'templates/pages/post.liquid'
const PAGER = 'templates/partials/pager.liquid'
const SEARCH = 'templates/pages/search.liquid'
const TAG = 'templates/pages/tag.liquid'
const COMMENT = 'templates/partials/comment.liquid'
const COMMENTS = 'templates/partials/comments.liquid'
const FORM = 'templates/partials/comment-form.liquid'
const ARCHIVE = 'templates/pages/archive.liquid'
const NOT_FOUND = 'templates/pages/not-found.liquid'
const PAGE_LINKS = 'templates/partials/page-links.liquid'
const CSS = 'assets/blog.css'
const query = (name: string) => `queries/${name}.yaml`

type Edit = readonly [path: string, part: string | RegExp, by: string]

/** Replaces parts of documents, and saves them. */
async function plant(edits: readonly Edit[]) {
  const texts: Record<string, string> = {}
  for (const [path, part, by] of edits) {
    const before = texts[path] ?? stored.get(path) ?? ''
    const after = before.replace(part, () => by)
    expect(after, `${path} has ${String(part)}`).not.toBe(before)
    texts[path] = after
  }
  const saved = await saveTexts(test.blog, texts)
  expect(saved.ok ? [] : saved).toEqual([])
}

const found = async (rule: string): Promise<Finding[]> => (await runRulesOf(test.blog, [rule])).findings

/** Whether the fix of the first finding is tried, or there is none. */
type Fixed = 'fixed' | 'no fix'

const FAULTS: [string, Edit[], rule: string, part: string, Fixed][] = [
  [
    'the plural for one comment',
    [[CARD, 'comment{% else %}comments', 'comments{% else %}comment']],
    'template-print-wrong',
    'for one, “comments” is printed, and for several “comment”',
    'no fix',
  ],
  [
    'an author who is printed where there is none',
    [
      [POST, "{% if post.author and post.author.about != '' %}", '{% unless post.author %}'],
      [POST, /(<\/section>\s*)\{% endif %\}/, '</section>{% endunless %}'],
    ],
    'template-print-wrong',
    '“post.author.name” is always empty here',
    'no fix',
  ],
  [
    'a number that is printed only when it is 0',
    [[COMMENTS, '{% if post.commentCount == 0 %}Comments', '{% if post.commentCount > 0 %}Comments']],
    'template-print-wrong',
    '“post.commentCount” is always 0 here',
    'no fix',
  ],
  [
    'a list in the branch for no items',
    [[POST, '{% if related.size > 0 %}', '{% if related.size == 0 %}']],
    'template-print-wrong',
    '“related” is always empty here',
    'no fix',
  ],
  [
    'a row that is compared with a number',
    [[ASIDE, 'below.parent.id == category.id', 'below.parent == category.id']],
    'template-print-wrong',
    'never equals a number, so the condition never holds',
    'no fix',
  ],
  [
    'the minutes of a text, not of its words',
    [[POST, 'post.wordCount | reading_minutes', 'post.html | reading_minutes']],
    'template-print-wrong',
    '“reading_minutes” takes the number of words',
    'no fix',
  ],
  [
    'an excerpt of eight characters',
    [[CARD, 'excerpt: 120', 'excerpt: 8']],
    'template-print-wrong',
    '“excerpt: 8” leaves only 8 characters',
    'no fix',
  ],
  [
    'the same datetime for every post',
    [[CARD, 'datetime="{{ post.publishedAt }}"', 'datetime="2026-01-01"']],
    'template-print-wrong',
    'is always 2026-01-01',
    'no fix',
  ],
  [
    'the current date in place of that of the post',
    [[POST, "{{ post.publishedAt | date: '%-d %B %Y' }}", "{{ 'now' | date: '%-d %B %Y' }}"]],
    'time-unreadable',
    'for the time 20',
    'no fix',
  ],
  [
    'the minute in place of the month, between spaces',
    [[ARCHIVE, "'%-d %b %Y'", "'%-d %M %Y'"]],
    'template-date-format',
    'pages/archive prints “post.publishedAt” in a wrong format',
    'no fix',
  ],
  [
    'page 1 marked on every page',
    [[PAGER, '{% elsif entry.current %}', '{% elsif entry.number == 1 %}']],
    'pager-wrong',
    'Page 1 is marked as the current page, which is 2',
    'no fix',
  ],
  [
    'the previous page as the next one in the head',
    [
      [
        PAGE_LINKS,
        '<link rel="prev" href="{{ paged.previous.url }}">',
        '<link rel="next" href="{{ paged.previous.url }}">',
      ],
    ],
    'pager-wrong',
    'The link to the next page leads to page 1',
    'no fix',
  ],
  [
    'the canonical address of the first page on all pages of a list',
    [
      [
        BASE,
        '<link rel="canonical" href="{{ request.canonical }}">',
        '<link rel="canonical" href="{{ request.path }}">',
      ],
    ],
    'head-incomplete',
    'names the first page of the list as its canonical address',
    'fixed',
  ],
  [
    'no encoding',
    [[BASE, '<meta charset="utf-8">', '']],
    'head-incomplete',
    'does not name its encoding',
    'fixed',
  ],
  [
    'a link to “#”',
    [[BASE, '<a href="{{ \'search\' | url }}">Search the journal', '<a href="#">Search the journal']],
    'link-broken',
    'the link “Search the journal”, which leads nowhere',
    'no fix',
  ],
  [
    'links to websites that writers have not given',
    [
      [
        COMMENT,
        /\{% if comment\.site != '' %\}(<a[^>]*><bdi>.*?<\/a>)\{% else %\}.*?\{% endif %\}/,
        '<a href="{{ comment.site }}"><bdi>{{ comment.name }}</bdi></a>',
      ],
    ],
    'link-broken',
    'which leads nowhere',
    'no fix',
  ],
  [
    'suggestions of the 404 page that lead nowhere',
    [[NOT_FOUND, '<a href="{{ one.path }}">', '<a href="/found{{ one.path }}">']],
    'link-broken',
    'The page for addresses that do not exist links to /found',
    'no fix',
  ],
  [
    'a navigation that marks pages of routes only',
    [[BASE, 'request.params.page == item.path', 'request.path == item.path']],
    'current-wrong',
    'does not mark its own link',
    'no fix',
  ],
  [
    'a route that was renamed, in a condition',
    [[BASE, "request.route == 'posts'", "request.route == 'post-list'"]],
    'template-name-unknown',
    'compares the route with “post-list”, which no route is called',
    'no fix',
  ],
  [
    'the title of the post as the name of its category',
    [
      [
        POST,
        '{{ post.category.name }}</a>{% endif %}\n        <h1>',
        '{{ post.title }}</a>{% endif %}\n        <h1>',
      ],
    ],
    'link-elsewhere',
    'leads to /category/',
    'no fix',
  ],
  [
    'links to comments with another anchor',
    [[COMMENT, '#comment-{{ comment.id }}"><time', '#c{{ comment.id }}"><time']],
    'anchor-missing',
    'links to #c',
    'no fix',
  ],
  [
    'names of months in the wrong order',
    [['templates/partials/month-name.liquid', 'May,June', 'June,May']],
    'month-misnamed',
    'the posts of ',
    'no fix',
  ],
  [
    'years beside the links to months',
    [
      [
        'templates/partials/months.liquid',
        '<span>{{ one.count }}</span>',
        '<span>{{ one.publishedYear }}</span>',
      ],
    ],
    'count-differs',
    'shows 202',
    'no fix',
  ],
  [
    'months sorted before years',
    [[query('posts-by-month'), '[-publishedYear, -publishedMonth]', '[-publishedMonth, -publishedYear]']],
    'order-wrong',
    'Query “posts-by-month” sorts months before years',
    'fixed',
  ],
  [
    'a loop inside a loop without its condition',
    [[ASIDE, '{% if below.parent.id == category.id %}', '{% if below.parent %}']],
    'list-repeats',
    'times in one list',
    'no fix',
  ],
  [
    'a slug that is compared with a name',
    [[query('tag-by-slug'), 'field: slug', 'field: name']],
    'slug-compared',
    'Query “tag-by-slug” compares the slug in the address with “name”',
    'fixed',
  ],
  [
    'a name that is compared with a slug',
    [['routes.yaml', 'category: post.category.slug', 'category: post.category.name']],
    'slug-compared',
    'compares “category.slug” with post.category.name, which is no slug',
    'fixed',
  ],
  [
    'a media feature that does not exist',
    [[CSS, 'prefers-color-scheme: dark', 'prefers-colour-scheme: dark']],
    'style-ignored',
    'is not a feature of media queries',
    'fixed',
  ],
  [
    'a class that no element has',
    [[CSS, /\.card /g, '.crad ']],
    'style-ignored',
    'No element has the class “crad”',
    'fixed',
  ],
  [
    'text of two pixels',
    [[CSS, 'font-size: 18px', 'font-size: 2px']],
    'style-hides-text',
    'has text of 2px',
    'no fix',
  ],
  [
    'main content that is not shown',
    [[CSS, '.skip {', 'main { display: none; }\n.skip {']],
    'style-hides-text',
    '“main” is not shown',
    'no fix',
  ],
  [
    'a script that connects to another site',
    [['assets/comments.js', 'fetch(form.action,', "fetch('https://comments.example/add',"]],
    'policy-blocks',
    'for https://comments.example/add, which is blocked',
    'no fix',
  ],
  [
    'the oldest posts first, beside links called “Newer” and “Older”',
    [[query('all-posts'), '[-publishedAt]', '[publishedAt]']],
    'order-wrong',
    'the link “Newer” leads to posts that are not newer',
    'fixed',
  ],
  [
    'the latest posts by title',
    [[query('latest-posts'), '[-publishedAt]', '[title]']],
    'order-wrong',
    'latest-posts',
    'fixed',
  ],
  [
    'the latest comments by age',
    [[query('latest-comments'), '[-createdAt]', '[createdAt]']],
    'order-wrong',
    'latest-comments',
    'fixed',
  ],
  [
    'a cursor list by date of change, beside a link called “Newest”',
    [[query('posts-by-date'), '[-publishedAt]', '[updatedAt]']],
    'order-wrong',
    'the link “New',
    'fixed',
  ],
  [
    'a search with the worst matches first',
    [[query('search-posts'), '[-relevance, -publishedAt]', '[relevance, -publishedAt]']],
    'order-wrong',
    'search-posts',
    'fixed',
  ],
  [
    'the posts without a tag in place of those with it',
    [[query('posts-with-tag'), 'field: tags.slug, is: equal', 'field: tags.slug, is: not-equal']],
    'term-lacks-post',
    'which does not list it',
    'no fix',
  ],
  [
    'the posts of all other authors',
    [[query('posts-by-author'), 'author.slug, is: equal', 'author.slug, is: not-equal']],
    'term-lacks-post',
    '/author/',
    'no fix',
  ],
  [
    'a loop with a limit',
    [['templates/pages/listing.liquid', 'in posts.items %}', 'in posts.items limit: 4 %}']],
    'rows-not-shown',
    'fetches 6 posts, and shows 4 of them',
    'no fix',
  ],
  [
    'a loop in reverse order',
    [['templates/pages/archive.liquid', 'in posts.items %}', 'in posts.items reversed %}']],
    'rows-not-shown',
    'in reverse order',
    'no fix',
  ],
  [
    'a security.txt that has expired',
    [
      [
        'routes.yaml',
        /^/,
        "- name: security\n  path: /.well-known/security.txt\n  security: { contact: ['mailto:safe@cobble-lane.example'], expires: 2024-01-31 }\n",
      ],
    ],
    'security-txt-expired',
    'has expired',
    'no fix',
  ],
  [
    'categories without an order',
    [[query('category-counts'), 'order: [position, name]\n', '']],
    'order-missing',
    'category-counts',
    'fixed',
  ],
  [
    'the posts of a category without those of the categories below it',
    [[query('posts-in-category'), 'is: within', 'is: equal']],
    'count-differs',
    'Electrical',
    'no fix',
  ],
  [
    'the months of all years',
    [[query('posts-of-month'), /.*publishedYear, is.*\n/, '']],
    'count-differs',
    '/archive shows',
    'no fix',
  ],
  [
    'the posts of all authors',
    [['routes.yaml', '    posts: posts-by-author', '    posts: all-posts']],
    'listing-same-everywhere',
    '“all-posts” returns the same rows at every address of route “author”',
    'no fix',
  ],
  [
    'the posts of a year at the address of a month',
    [[query('posts-of-month'), /.*publishedMonth, is.*\n/, '']],
    'listing-same-everywhere',
    'for every value of “month”',
    'no fix',
  ],
  [
    'a condition on a title that is never blank',
    [[query('all-posts'), '[published]', '[published, { field: title, is: not-equal, to: "" }]']],
    'condition-idle',
    'all-posts',
    'fixed',
  ],
  [
    'a listing without links to its other pages',
    [[TAG, / *\{% render 'partials\/pager', paged: posts %\}\n/, '']],
    'pager-wrong',
    '/tag/beginners: No link leads to the second page',
    'no fix',
  ],
  [
    'comments without links to their other pages',
    [
      ['blog.yaml', 'page-size: 30', 'page-size: 2'],
      [COMMENTS, /\{%- if comments\.previous or comments\.next %\}[\s\S]*?<\/nav>\n {2}\{%- endif %\}\n/, ''],
    ],
    'pager-wrong',
    '?comments=2',
    'no fix',
  ],
  [
    'a search form that is sent to nowhere',
    [[SEARCH, `action="{{ 'search' | url }}"`, 'action="/find"']],
    'form-wrong',
    'is sent to /find, which answers 404',
    'no fix',
  ],
  [
    'a search form that is sent with POST',
    [[SEARCH, '<form class="search"', '<form class="search" method="post"']],
    'form-wrong',
    'with POST, which nothing answers',
    'no fix',
  ],
  [
    'a search field with a name that nothing reads',
    [[SEARCH, 'name="q"', 'name="words"']],
    'form-wrong',
    'The field “words”',
    'no fix',
  ],
  [
    'options with other values than the query compares with',
    [[SEARCH, '<option value="{{ category.slug }}"', '<option value="{{ category.name }}"']],
    'form-wrong',
    'The field “category”',
    'no fix',
  ],
  [
    'a search that needs a category, which is optional',
    [[query('search-posts'), ', when: given', '']],
    'form-wrong',
    'finds nothing',
    'no fix',
  ],
  [
    'a skip link to an id that no element has',
    [[BASE, 'href="#content"', 'href="#main"']],
    'anchor-missing',
    'links to #main',
    'no fix',
  ],
  [
    'a link with the title of another post',
    [[POST, `{{ 'post' | url: slug: other.slug }}`, `{{ 'post' | url: slug: post.slug }}`]],
    'link-elsewhere',
    'the link “',
    'no fix',
  ],
  [
    'an address that is built from a name',
    [[POST, 'tag: tag.slug', 'tag: tag.name']],
    'template-slug-expected',
    'tag.name',
    'fixed',
  ],
  [
    'a month in place of minutes',
    [[COMMENT, '%H:%M', '%H:%m']],
    'template-date-format',
    'comment.createdAt',
    'no fix',
  ],
  [
    'a date format of another kind',
    [[CARD, "'%-d %B %Y'", "'DD MMMM YYYY'"]],
    'template-date-format',
    'post.publishedAt',
    'no fix',
  ],
  [
    'raw on what a reader has typed',
    [
      [
        SEARCH,
        'Searching for “{{ request.params.q | excerpt: 80 }}”',
        'Searching for “{{ request.params.q | raw }}”',
      ],
    ],
    'template-filter-fails',
    'request.params.q',
    'no fix',
  ],
  [
    'raw on what a reader has typed, where a search without results shows it',
    [
      [
        SEARCH,
        '“{{ request.params.q | excerpt: 80 }}”. Use fewer or',
        '“{{ request.params.q | raw }}”. Use fewer or',
      ],
    ],
    'page-fails',
    '/search?q=qzqzqz answers 500',
    'no fix',
  ],
  [
    'an image that the query of one page does not fetch',
    [[query('all-posts'), 'author, image, ', 'author, ']],
    'template-field-not-fetched',
    'post.image',
    'fixed',
  ],
  [
    'a time in words',
    [[CARD, 'datetime="{{ post.publishedAt }}"', `datetime="{{ post.publishedAt | date: '%-d %B %Y' }}"`]],
    'time-unreadable',
    'which machines cannot read',
    'no fix',
  ],
  [
    'no description',
    [[BASE, / *<meta name="description".*\n/, '']],
    'head-incomplete',
    '/ has no description',
    'fixed',
  ],
  [
    'no viewport',
    [[BASE, / *<meta name="viewport".*\n/, '']],
    'head-incomplete',
    '/ has no viewport',
    'fixed',
  ],
  [
    'no canonical address',
    [[BASE, /\{% if request.route != 'not-found' %\}<link rel="canonical".*\n/, '\n']],
    'head-incomplete',
    '/ has no canonical address',
    'fixed',
  ],
  [
    'the home page as the canonical address of all pages',
    [
      [
        BASE,
        '<link rel="canonical" href="{{ request.canonical }}">',
        '<link rel="canonical" href="{{ blog.origin }}/">',
      ],
    ],
    'head-incomplete',
    'names another page as its canonical address',
    'fixed',
  ],
  [
    'another language',
    [[BASE, 'lang="{{ blog.language }}"', 'lang="de"']],
    'head-incomplete',
    '“de”',
    'fixed',
  ],
  [
    'one title for all pages',
    [[BASE, '<title>{% block title %}{% endblock %}{{ blog.title }}', '<title>{{ blog.title }}']],
    'head-incomplete',
    'pages have the title “Cobble Lane Repair Café”',
    'no fix',
  ],
  [
    'a misspelt property',
    [[CSS, 'text-underline-offset', 'text-underline-ofset']],
    'style-ignored',
    'text-underline-ofset',
    'fixed',
  ],
  [
    'a misspelt keyword',
    [[CSS, 'box-sizing: border-box', 'box-sizing: border']],
    'style-ignored',
    'box-sizing',
    'fixed',
  ],
  [
    'a variable that is not set',
    [[CSS, 'color: var(--ink); font', 'color: var(--inc); font']],
    'style-ignored',
    '--inc',
    'fixed',
  ],
  [
    'no visible focus',
    [[CSS, 'outline: 3px solid var(--rust)', 'outline: none']],
    'focus-hidden',
    'outline',
    'no fix',
  ],
  [
    'a stylesheet of another site',
    [[CSS, /^/, '@import url(https://fonts.example/a.css);\n']],
    'policy-blocks',
    'https://fonts.example/a.css',
    'no fix',
  ],
  [
    'a comment form on posts whose comments are closed',
    [[FORM, '{%- if form.isOpen or form.editing %}', '{%- if form %}']],
    'comment-form-when-closed',
    'although comments are closed',
    'no fix',
  ],
  [
    'a reply without its parent',
    [[FORM, / *\{%- if form.parent %\}<input.*\n/, '']],
    'comment-reply-lost',
    'loses the comment that it answers',
    'no fix',
  ],
  [
    'no link to reply',
    [[COMMENT, 'url_with: reply: comment.id', 'url_with: replyto: comment.id']],
    'comment-reply-lost',
    'cannot reply',
    'no fix',
  ],
  [
    'a text area that ends too early',
    [[FORM, 'maxlength="{{ form.rules.textLength }}"', 'maxlength="10"']],
    'comment-length-differs',
    'ends at 10 characters',
    'fixed',
  ],
  [
    'comments that are not rendered',
    [
      [
        COMMENTS,
        `{% render 'partials/comment', comment: comment, post: post, form: form, request: request %}`,
        '',
      ],
    ],
    'comments-not-shown',
    'are not shown there',
    'no fix',
  ],
  [
    'a link to the site of a writer without “nofollow”',
    [[COMMENT, 'rel="ugc nofollow noopener"', 'rel="noopener"']],
    'comment-link-followed',
    'nofollow',
    'no fix',
  ],
  [
    'a comment as it was typed',
    [[COMMENT, '{{ comment.html }}', '{{ comment.text }}']],
    'template-comment-as-typed',
    'prints “comment.text” as it was typed',
    'fixed',
  ],
  [
    'the number of posts on the page, as if it were that of all posts',
    [[TAG, '{% endblock %}', ' ({{ posts.items | size }} posts){% endblock %}']],
    'template-page-counted',
    'prints the number of rows on a page',
    'fixed',
  ],
  [
    'a search that forgets the category',
    [[SEARCH, '{% if category.slug == request.params.category %} selected{% endif %}', '']],
    'form-wrong',
    'The form on /search forgets “category”',
    'no fix',
  ],
  [
    'a search that forgets its words',
    [[SEARCH, ' value="{{ request.params.q }}"', '']],
    'form-wrong',
    'The form on /search forgets “q”',
    'no fix',
  ],
  [
    'a current page that is not marked',
    [[PAGER, '<b aria-current="page">', '<b>']],
    'pager-wrong',
    'The current page, 2, is not marked',
    'no fix',
  ],
  [
    'the wrong numbers of the posts on a page',
    [[PAGER, '<span class="range">Posts {{ paged.from }}', '<span class="range">Posts {{ paged.page }}']],
    'pager-wrong',
    'The page says 2, 12,',
    'no fix',
  ],
  [
    'an image without its width and height',
    [
      [
        CARD,
        `{{ post.image | picture: text: '', sizes: '148px' }}`,
        '<img src="/media/{{ post.image.name }}" alt="">',
      ],
    ],
    'image-unsized',
    'shows an image without its width and height',
    'no fix',
  ],
  [
    'an author printed as a row',
    [[CARD, '{{ post.author.name }}', '{{ post.author }}']],
    'template-print-wrong',
    '“post.author” is an author, which prints nothing',
    'fixed',
  ],
  [
    'tags printed as a list of rows',
    [[POST, '<ul class="tags"', '<p>{{ post.tags }}</p><ul class="tags"']],
    'template-print-wrong',
    '“post.tags” is a list of tags, which prints nothing',
    'no fix',
  ],
  [
    'the slug of a category in place of its name',
    [[CARD, '{{ post.category.name }}', '{{ post.category.slug }}']],
    'template-print-wrong',
    'shows readers a slug',
    'fixed',
  ],
  [
    'a text without its markup',
    [[POST, '{{ post.html }}', '{{ post.html | strip_html }}']],
    'template-print-wrong',
    '“post.html” loses its paragraphs',
    'no fix',
  ],
  [
    'the current date on each card',
    [[CARD, "{{ post.publishedAt | date: '%-d %B %Y' }}", "{{ now | date: '%-d %B %Y' }}"]],
    'template-print-wrong',
    '“now” is the current time',
    'no fix',
  ],
  [
    'an excerpt of no length',
    [[CARD, 'excerpt: 120', 'excerpt: 0']],
    'template-print-wrong',
    '“excerpt: 0” leaves nothing',
    'no fix',
  ],
  [
    'a link to a comment by the id of its post',
    [[ASIDE, 'slug: comment.post.slug', 'slug: comment.post.id']],
    'link-broken',
    ', which answers 404',
    'no fix',
  ],
  [
    'pictures that all lead home',
    [[CARD, `<a class="picture" href="{{ 'post' | url: slug: post.slug }}"`, '<a class="picture" href="/"']],
    'link-elsewhere',
    'all lead to /',
    'no fix',
  ],
  [
    'a navigation in which every link is the current page',
    [
      [
        BASE,
        '{% if request.params.page == item.path %} aria-current="page"{% endif %}',
        ' aria-current="page"',
      ],
    ],
    'current-wrong',
    'as the current page',
    'no fix',
  ],
  [
    'the same description for all posts',
    [[POST, '{{ post.excerpt | excerpt: 150 }}', 'A post']],
    'head-incomplete',
    'have the description “A post”',
    'no fix',
  ],
  [
    'posts from a year without posts',
    [
      [
        query('latest-posts'),
        '[published]',
        '[published, { field: publishedAt, is: less, to: "2001-01-01T00:00:00Z" }]',
      ],
    ],
    'condition-idle',
    'returns none of',
    'no fix',
  ],
  [
    'a class without its dot',
    [[CSS, '.pager', 'pager']],
    'style-ignored',
    '“pager” is not an element',
    'fixed',
  ],
  [
    'a colour with a letter too many',
    [[CSS, /(--ink: )#[0-9a-f]+/, '--ink: #1b1b1g']],
    'style-ignored',
    '“#1b1b1g” is not a colour',
    'no fix',
  ],
  [
    'a blog that asks search engines to leave it out',
    [[BASE, '</head>', '<meta name="robots" content="noindex"></head>']],
    'head-incomplete',
    'asks search engines to leave it out',
    'no fix',
  ],
  [
    'a page that cannot be zoomed',
    [[BASE, 'initial-scale=1"', 'initial-scale=1, user-scalable=no"']],
    'head-incomplete',
    'cannot be zoomed',
    'fixed',
  ],
  [
    'a page with the width of a desktop on phones',
    [[BASE, 'width=device-width, initial-scale=1', 'width=1024']],
    'head-incomplete',
    'a viewport with a width of its own',
    'fixed',
  ],
  [
    'the same heading for all tags',
    [[TAG, '>Tagged “{{ tag.name }}”</h1>', '>Tagged</h1>']],
    'head-incomplete',
    'have the heading “Tagged”',
    'no fix',
  ],
  [
    'a link to the computer of the developer',
    [[BASE, `href="{{ 'archive' | url }}"`, 'href="http://localhost:3000/archive"']],
    'link-broken',
    'refers to http://localhost:3000/archive',
    'no fix',
  ],
  [
    'a title that is formatted as a date',
    [[CARD, "{{ post.publishedAt | date: '%-d %B %Y' }}", "{{ post.title | date: '%-d %B %Y' }}"]],
    'template-date-format',
    'post.title',
    'no fix',
  ],
  [
    'seconds in place of minutes',
    [[COMMENT, "'%-d %B %Y, %H:%M'", "'%-d %B %Y, %H:%S'"]],
    'template-date-format',
    'comment.createdAt',
    'no fix',
  ],
  [
    'the number of comments on the page, as if it were that of all comments',
    [[COMMENTS, '{% else %}{{ post.commentCount }} {% if', '{% else %}{{ comments.items.size }} {% if']],
    'template-page-counted',
    'prints the number of rows on a page',
    'fixed',
  ],
  [
    'the number of the current page in the links to all others',
    [[PAGER, '>{{ entry.number }}</a>', '>{{ paged.page }}</a>']],
    'pager-wrong',
    'The link “2” leads to page',
    'no fix',
  ],
  [
    'a list inside a condition that is not met',
    [[POST, '{% if related.size > 0 %}', '{% if related.size == 0 %}']],
    'rows-not-shown',
    'and shows none of them',
    'no fix',
  ],
  [
    'links to other pages that have the same name',
    [[PAGER, 'aria-label="Page {{ entry.number }}"', 'aria-label="Page"']],
    'pager-wrong',
    'are all called “Page”',
    'no fix',
  ],
  [
    'the feed of a category with the posts of all',
    [['routes.yaml', '    posts: posts-in-category\n  feed: atom', '    posts: latest-posts\n  feed: atom']],
    'listing-same-everywhere',
    'route “category-feed”',
    'no fix',
  ],
  [
    'a title that is escaped twice',
    [[CARD, '{{ post.title }}', '{{ post.title | escape }}']],
    'template-print-wrong',
    'with “escape” readers see &amp; for &',
    'no fix',
  ],
  [
    'a script that looks for a misspelt class',
    [['assets/comments.js', "section.querySelector('.status')", "section.querySelector('.staus')"]],
    'script-finds-nothing',
    'looks for “.staus”',
    'no fix',
  ],
  [
    'a script that looks for an id that has gone',
    [['assets/comments.js', "section.querySelector('#say')", "section.querySelector('#reply-box')"]],
    'script-finds-nothing',
    'looks for “#reply-box”',
    'no fix',
  ],
]

it('faults are planted for each of these rules', () => {
  expect([...new Set(FAULTS.map(([, , rule]) => rule))].sort()).toEqual([...PLANTED_RULES].sort())
})

describe.each(FAULTS)('%s', (_, edits, rule, part, fixed) => {
  it(`is found by ${rule}`, { timeout: 60_000 }, async () => {
    await plant(edits)
    const findings = await found(rule)
    const finding = findings.find((one) => one.title.includes(part))
    expect(findings.map((one) => one.title).join('\n')).toContain(part)
    const address = finding?.witness.address
    const actual = finding?.witness.actual ?? ''
    // A witness that names a status is answered with it.
    if (typeof address === 'string') {
      const { status } = await test.read(address)
      if (/^\d{3}$/.test(actual) && rule !== 'count-differs')
        expect([address, String(status)]).toEqual([address, actual])
      else expect([address, status]).toEqual([address, 200])
    }
    expect(finding?.fixes.length === 0 ? 'no fix' : 'fixed').toBe(fixed)
    if (fixed === 'no fix') return
    expect(await applySteps(test.blog, finding?.fixes[0]?.steps ?? [])).toMatchObject({ ok: true })
    expect((await found(rule)).map((one) => one.title)).not.toContain(finding?.title)
  })
})
