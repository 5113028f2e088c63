/** The name of something new in the address. It cannot be a slug. */
const NEW = '(new)'

let count = 0

/** Returns the name of the next new item. It differs from the ones before, so none inherits what was typed in another. */
export const newName = (): string => (count++ === 0 ? NEW : `${NEW}${count}`)

export const isNew = (name: string | null): boolean => name !== null && name.startsWith(NEW)
