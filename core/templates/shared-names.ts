/** The names that every template sees: pages, layouts and partials, without being passed. */

/** Name → what it is. */
export const SHARED_VALUES: Readonly<Record<string, string>> = {
  blog: 'Settings of blog.yaml.',
  request: 'The address of the page. “canonical” is the one address of the same page.',
  navigation: 'The pages that are shown in the navigation, as a tree, in the order of their positions.',
  now: 'The current time.',
  visitor: 'Who requests the page.',
  form: 'The comment form, for the reader who requests the page. Only pages with data “post” have it.',
  heading: 'The “heading” of the route.',
  nearest: 'On the 404 page: up to three existing addresses whose path is similar, the most similar first.',
}

export const SHARED_NAMES: ReadonlySet<string> = new Set(Object.keys(SHARED_VALUES))
