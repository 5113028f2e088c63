// Faults in the markup of templates are found, with a witness that holds.
import { BASE, CARD, COMMENTS, NOT_FOUND, POST, plantFaults } from '../testing/planted-faults.ts'

plantFaults('markup', [
  [
    'a misspelt attribute',
    [[CARD, '<article class=', '<article clss=']],
    'attribute-wrong',
    '<article> has no attribute “clss”',
    'fixed',
  ],
  [
    'a misspelt link type',
    [[COMMENTS, 'rel="prev"', 'rel="prv"']],
    'attribute-wrong',
    'There is no link type “prv”',
    'fixed',
  ],
  [
    'a suggestion without an address',
    [[NOT_FOUND, '<a href="{{ one.path }}">', '<a>']],
    'attribute-wrong',
    'A link without “href” leads nowhere',
    'no fix',
  ],
  [
    'a property of the page without its value',
    [[BASE, ' content="{% block kind %}website{% endblock %}"', '']],
    'attribute-wrong',
    '<meta property="og:type"> has no “content”',
    'no fix',
  ],
  [
    'a list of which nothing is shown',
    [[POST, 'for tag in post.tags', 'for tag in post.tags offset: 9']],
    'list-empty',
    'The list <ul class="tags"> never has items',
    'no fix',
  ],
  [
    'a heading that was pasted twice',
    [[POST, '<h2>Written by</h2>', '<h2>Written by</h2>\n      <h2>Written by</h2>']],
    'markup-repeated',
    'has the same <h2> twice',
    'fixed',
  ],
  [
    'a label of no field, in a form that few readers see',
    [['templates/partials/comment-form.liquid', '<label for="say-text">They were', '<label>They were']],
    'attribute-wrong',
    'A label needs “for”',
    'no fix',
  ],
  [
    'an image without an alternative text',
    [
      [
        CARD,
        "{{ post.image | picture: text: '', sizes: '148px' }}",
        '<img src="/media/{{ post.image.name }}" width="148" height="112">',
      ],
    ],
    'attribute-wrong',
    'An image needs an alternative text',
    'no fix',
  ],
  [
    'a link type with a sign that patterns know, on two lines',
    [[COMMENTS, /rel="(prev|next)"/g, 'rel="next("']],
    'attribute-wrong',
    'There is no link type “next(”',
    'fixed',
  ],
])
