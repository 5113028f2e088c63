/** The texts of the steps in which a blog is built. */
import type { BuildingStepId, Look } from '../../../../core/shapes/building.ts'
import { plural } from '../../../shared/words/format.ts'

interface StepWords {
  title: string
  about: string
  /** What is reported once it was applied. */
  done: string
}

export const words = {
  title: 'Build a blog',
  about: 'Each step is a change that you can read before it is applied.',
  request: 'This request',
  steps: (done: number, all: number) => `Build a blog ${done} of ${all}`,
  toggle: 'What is shown beside the page',
  loading: 'Asking the blog …',
  show: 'Show the change',
  apply: 'Apply',
  cancel: 'Cancel',
  skip: 'Skip',
  skipped: 'skipped',
  take: 'Take this step',
  walk: 'Walk',
  hide: 'Hide these steps',
  undo: 'Each step can be undone under Changes.',
  samples: 'Add sample posts',
  samplesDone: (posts: number, drafts: number) =>
    `${plural(posts, 'sample post')} were added, ${drafts} of them drafts. You can undo this under Changes.`,
  importPosts: 'Import Markdown…',
  look: 'Look',
  looks: {
    bench: ['Bench', 'cards with pictures on the left, strong sans-serif headings'],
    ledger: ['Ledger', 'one narrow ruled column, serif headings, pictures on the right'],
  } satisfies Record<Look, [string, string]>,
  documents: (created: number, changed: number) =>
    [
      created > 0 ? `${plural(created, 'new document')}` : '',
      changed > 0 ? `${plural(changed, 'changed document')}` : '',
    ]
      .filter((one) => one !== '')
      .join(', '),
  nothing: 'There is nothing to change.',
  kept: (documents: readonly string[]) =>
    `${documents.join(', ')} ${documents.length === 1 ? 'stays as it is, because you have changed it.' : 'stay as they are, because you have changed them.'}`,
  further: 'Further steps',
  complete: 'Your blog has everything from this list.',
  step: {
    content: {
      title: 'Something to show',
      about: 'Twelve sample posts, two of them drafts, or your own Markdown files.',
      done: '',
    },
    layout: {
      title: 'Layout and style',
      about: 'A layout with a header, a menu and a footer, and a stylesheet in one of two looks.',
      done: 'The layout and the stylesheet were saved.',
    },
    list: {
      title: 'A list of posts',
      about: 'A route, a query for published posts, newest first, and a card for each of them.',
      done: 'The list of posts was added.',
    },
    post: {
      title: 'One post, by its slug',
      about: 'A route, a query for one row, a template, and links from the list. Unknown slugs answer 404.',
      done: 'The page of a post was added.',
    },
    published: {
      title: 'Only published posts',
      about: 'No list shows a draft, and the address of a draft answers 404.',
      done: 'Queries return published posts only.',
    },
    pages: {
      title: 'Pages of the list',
      about: 'Six posts a page, with links to the other pages. Beyond the last page: 404.',
      done: 'The list has pages.',
    },
    categories: {
      title: 'Categories',
      about: 'Shown on the card and on the post. Each leads to a list of its own.',
      done: 'Categories have pages.',
    },
    home: {
      title: 'Home and navigation',
      about: 'The latest five posts on the home page, the menu from the tree of pages, and a 404 page.',
      done: 'The home page, the menu and the 404 page were added.',
    },
    comments: {
      title: 'Comments',
      about: 'A form that works with and without scripts, and a list below each post.',
      done: 'Posts have comments.',
    },
    cache: {
      title: 'Cache',
      about: 'The card is kept as a fragment, and refreshed when something that it shows changes.',
      done: 'Cards are cached.',
    },
    machines: {
      title: 'Feeds and search engines',
      about:
        'An Atom feed that browsers find, a sitemap of all pages, robots.txt, and an image for each post where its address is shared.',
      done: 'The feed, the sitemap, robots.txt and the images were added.',
    },
    authors: {
      title: 'A page for each author',
      about: 'The author’s description and posts. Author names link to it.',
      done: 'Authors have pages.',
    },
    tags: {
      title: 'Tags',
      about: 'Shown below each post. Each tag links to a list of its posts.',
      done: 'Tags have pages.',
    },
    archive: {
      title: 'Archive by month',
      about: 'A list of months with their number of posts, and a list of posts for each month.',
      done: 'The archive was added.',
    },
    search: {
      title: 'Search',
      about: 'Full-text search of published posts, best matches first, with matching words highlighted.',
      done: 'The search was added.',
    },
    related: {
      title: 'Related posts',
      about: 'Below each post: up to three other posts in its category.',
      done: 'Posts show related posts.',
    },
    neighbours: {
      title: 'Previous and next post',
      about: 'Below each post: links to the posts published before and after it.',
      done: 'Posts link to the posts before and after them.',
    },
    popular: {
      title: 'Most commented posts',
      about: 'On the home page: the five posts with the most comments.',
      done: 'The home page shows the most commented posts.',
    },
    aside: {
      title: 'An aside on every page',
      about: 'What the blog is about, its categories and months with counts, and the latest comments.',
      done: 'The aside was added.',
    },
    numbered: {
      title: 'The same post by number',
      about: 'A short address such as /p/12, which redirects to the post and stays if its slug changes.',
      done: 'Posts have short addresses.',
    },
  } satisfies Record<BuildingStepId, StepWords>,
} as const
