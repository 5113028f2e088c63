/** Stands in the address for what has no name yet; no slug can be it. */
export const NEW = '(new)'
