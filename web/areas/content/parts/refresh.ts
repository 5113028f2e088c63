/** What is asked anew after content has changed. */
import type { QueryClient } from '@tanstack/react-query'

/** Whatever lists content. */
const LISTS = [
  ...['posts', 'names', 'terms', 'pages', 'images', 'html', 'deleted'],
  ...['appearances', 'routes', 'addresses', 'checks', 'document'],
]
/** What is open in an editor. */
const OPEN = ['post', 'page']

const refresh = (client: QueryClient, keys: readonly string[]) =>
  Promise.all(keys.map((key) => client.invalidateQueries({ queryKey: [key] })))

export const refreshLists = (client: QueryClient) => refresh(client, LISTS)
export const refreshContent = (client: QueryClient) => refresh(client, [...LISTS, ...OPEN])
