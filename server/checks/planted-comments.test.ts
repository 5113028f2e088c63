// Faults in comments and forms are found, with a witness that holds.
import { COMMENT, COMMENTS, FORM, SEARCH, plantFaults, query } from '../testing/planted-faults.ts'

plantFaults('comments', [
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
    'buttons of writers without the token',
    [[COMMENT, '<input type="hidden" name="token" value="{{ form.token }}">', '']],
    'form-wrong',
    'a form is sent to “add-comment” without its token',
    'no fix',
  ],
])
