/** The names of the steps in which a blog is built, and of the looks that it can have. */

/** The steps that change documents of a new blog, in the order in which they are usually taken. */
export const FIRST_STEPS = [
  'layout',
  'list',
  'post',
  'published',
  'pages',
  'categories',
  'home',
  'comments',
  'cache',
  'machines',
] as const

/** Steps that most blogs take later. */
export const FURTHER_STEPS = [
  'authors',
  'tags',
  'archive',
  'search',
  'related',
  'neighbours',
  'popular',
  'aside',
  'numbered',
] as const
export type FurtherStep = (typeof FURTHER_STEPS)[number]

export const DRAFTED_STEPS = [...FIRST_STEPS, ...FURTHER_STEPS] as const
export type DraftedStep = (typeof DRAFTED_STEPS)[number]

/** All steps. The first one adds content. */
export const BUILDING_STEPS = ['content', ...DRAFTED_STEPS] as const
export type BuildingStepId = (typeof BUILDING_STEPS)[number]

export const LOOKS = ['bench', 'ledger'] as const
export type Look = (typeof LOOKS)[number]
