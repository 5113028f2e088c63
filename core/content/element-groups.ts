/** How the elements of the allow-list are sorted where they are shown. */
export const ELEMENT_GROUPS = ['Text', 'Blocks', 'Tables', 'Pictures', 'Unfolding', 'Lists to tick'] as const
export type ElementGroup = (typeof ELEMENT_GROUPS)[number]
