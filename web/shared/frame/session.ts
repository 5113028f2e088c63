/** What this workbench works on. */
import { useQuery } from '@tanstack/react-query'
import { call } from '../../api/client.ts'

export const useSession = () =>
  useQuery({ queryKey: ['session'], queryFn: () => call('GET /api/session', {}) })
