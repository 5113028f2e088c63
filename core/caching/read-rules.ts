/** Reads cache.yaml. Whether its routes and fragments exist is checked with the whole definition. */
import { CacheRules, type PageRule } from '../shapes/cache-rules.ts'
import type { Worded } from '../shapes/catalogue.ts'
import { readDuration } from '../shapes/duration.ts'
import type { Problem } from '../shapes/problem.ts'
import { readYaml, type PlaceOf } from '../shapes/yaml.ts'
import { CACHE_PROBLEMS } from './problems.ts'
import { LONGEST_LIFETIME } from './rules.ts'

export const CACHE_FILE = 'cache.yaml'
const AGES = ['lifetime', 'stale-while-revalidate', 'stale-if-error'] as const

export interface ReadRules {
  value: CacheRules
  placeOf: PlaceOf
  problems: readonly Problem[]
}

/** @param text of cache.yaml; undefined if there is none */
export function readCacheRules(text: string | undefined): ReadRules {
  const none = { value: {}, placeOf: () => undefined }
  if (text === undefined || text.trim() === '') return { ...none, problems: [] }
  const result = readYaml(CACHE_FILE, text, CacheRules)
  if (!result.ok) return { ...none, problems: result.problems }
  const { value, placeOf } = result
  const problems = Object.entries(value.pages ?? {}).flatMap(([route, rule]) =>
    [...ruleProblems(rule)].map(({ key, worded }) => ({
      file: CACHE_FILE,
      path: `/pages/${route}/${key}`,
      ...placeOf(['pages', route, key]),
      ...worded,
    })),
  )
  return { value, placeOf, problems: [...problems, ...edgeProblems(value, placeOf)] }
}

function edgeProblems({ edge }: CacheRules, placeOf: PlaceOf): Problem[] {
  if (!edge || isLifetime(edge.lifetime)) return []
  return [
    {
      file: CACHE_FILE,
      path: '/edge/lifetime',
      ...placeOf(['edge', 'lifetime']),
      ...CACHE_PROBLEMS['cache-edge-lifetime-invalid'](edge.lifetime),
    },
  ]
}

function isLifetime(text: string): boolean {
  const milliseconds = readDuration(text) ?? 0
  return milliseconds > 0 && milliseconds <= LONGEST_LIFETIME
}

/** Yields the problems of a rule, each with the key that has it. */
function* ruleProblems(rule: PageRule): Generator<{ key: string; worded: Worded }> {
  const { refresh = 'on-change' } = rule
  if (refresh !== 'on-change' && rule.lifetime === undefined)
    yield { key: 'refresh', worded: CACHE_PROBLEMS['cache-lifetime-missing'](refresh) }
  for (const key of AGES) {
    const text = rule[key]
    if (text === undefined) continue
    const milliseconds = readDuration(text) ?? 0
    if (refresh === 'on-change') yield { key, worded: CACHE_PROBLEMS['cache-age-unused'](key) }
    else if (milliseconds > LONGEST_LIFETIME || (milliseconds === 0 && key === 'lifetime'))
      yield { key, worded: CACHE_PROBLEMS['cache-lifetime-invalid'](key, text) }
  }
}
