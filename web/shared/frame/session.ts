/** The blog of this workbench. */
import { useRead } from '../../api/queries.ts'

export const useSession = () => useRead('GET /api/session', {})
