/**
 * Checks the architecture: which folder may import which, and that no imports form a cycle. Type-only imports count.
 * `npm run architecture` runs it; `docs/architecture.md` explains the layers.
 *
 * Each key is a folder; its values are the folders it may import besides itself and its own subfolders.
 */
const CORE = ['core/']
export const FOLDERS = {
  // The floor.
  'core/shapes/': [],
  // One concept each.
  'core/slugs/': ['core/shapes/'],
  'core/styles/': [],
  'core/paging/': [],
  'core/messages/': [],
  'core/comments/': ['core/shapes/', 'core/messages/', 'core/content/'],
  'core/content/': ['core/shapes/', 'core/slugs/'],
  'core/routing/patterns/': ['core/shapes/'],
  'core/routing/addresses/': ['core/shapes/', 'core/routing/problems.ts', 'core/routing/patterns/'],
  'core/routing/analysis/': ['core/shapes/', 'core/routing/patterns/', 'core/routing/addresses/'],
  'core/queries/': ['core/shapes/', 'core/content/', 'core/comments/'],
  'core/caching/': ['core/shapes/', 'core/queries/', 'core/content/'],
  'core/templates/': [
    'core/shapes/',
    'core/content/',
    'core/paging/',
    'core/caching/',
    'core/routing/addresses/',
  ],
  'core/syndication/': ['core/shapes/', 'core/content/', 'core/queries/', 'core/routing/'],
  // The roof: a definition as a whole.
  'core/blog/': [
    'core/shapes/',
    'core/messages/',
    'core/comments/',
    'core/slugs/',
    'core/content/',
    'core/routing/',
    'core/queries/',
    'core/syndication/',
    'core/templates/',
    'core/caching/',
  ],
  'core/checks/': [
    'core/shapes/',
    'core/content/',
    'core/slugs/',
    'core/templates/',
    'core/routing/',
    'core/queries/',
    'core/comments/',
    'core/caching/',
    'core/blog/',
  ],

  'contract/': ['core/shapes/', 'core/checks/', 'core/caching/'],

  'server/store/': [...CORE],
  'server/publish/': [...CORE, 'server/store/', 'server/jobs/'],
  'server/reader/': [...CORE, 'contract/', 'server/store/', 'server/publish/', 'server/jobs/'],
  'server/trials/': [...CORE, 'server/jobs/', 'server/store/', 'server/publish/', 'server/reader/'],
  'server/previews/': [
    ...CORE,
    'contract/',
    'server/jobs/',
    'server/store/',
    'server/publish/',
    'server/reader/',
    'server/probes/',
  ],
  'server/probes/': [
    ...CORE,
    'contract/',
    'server/store/',
    'server/publish/',
    'server/reader/',
    'server/author/',
    'server/jobs/',
  ],
  'server/author/': [...CORE, 'server/store/', 'server/publish/', 'server/reader/', 'server/jobs/'],
  'server/jobs/': [...CORE],
  'server/growth/': [
    ...CORE,
    'contract/',
    'server/store/',
    'server/publish/',
    'server/reader/',
    'server/jobs/',
  ],
  'server/mail/': [...CORE, 'server/store/', 'server/publish/', 'server/reader/'],
  'server/standins/': [],
  'server/edge/': [...CORE, 'server/in-time.ts', 'server/store/', 'server/publish/'],
  'server/shared-copies/': [...CORE, 'server/in-time.ts'],
  'server/processes/': [
    ...CORE,
    'server/log.ts',
    'server/start-problem.ts',
    'server/store/',
    'server/publish/',
    'server/reader/',
    'server/shared-copies/',
    'server/jobs/',
  ],
  'server/checks/': [
    ...CORE,
    'contract/',
    'server/store/',
    'server/publish/',
    'server/reader/',
    'server/probes/',
    'server/author/',
    'server/jobs/',
    'server/growth/',
  ],
  'server/workbench/http/': ['core/shapes/', 'contract/', 'server/store/'],
  'server/workbench/': [...CORE, 'contract/', 'server/'],

  'web/api/': ['contract/'],
  'web/shared/': [...CORE, 'contract/', 'web/api/'],
  // An area knows no other area.
  ...Object.fromEntries(
    ['cache', 'changes', 'checks', 'content', 'templates', 'queries', 'routes', 'sign-in', 'walk'].map(
      (area) => [`web/areas/${area}/`, [...CORE, 'contract/', 'web/api/', 'web/shared/']],
    ),
  ),
  'web/': [...CORE, 'contract/', 'web/'],
  'server/': [...CORE, 'contract/', 'server/'],
  'core/': [...CORE],
}

const LOCAL = '^(core|contract|server|web|demo|e2e|bench|scripts)/'
const TEST_FILES = '\\.(test|e2e)\\.tsx?$|(^|/)testing/|^(e2e|bench|scripts)/'
/** Folders above others in the list, whose own rule takes their place. */
const moreSpecific = (folder) =>
  Object.keys(FOLDERS).filter((other) => other !== folder && other.startsWith(folder))

const arrows = Object.entries(FOLDERS).map(([folder, allowed]) => ({
  name: `arrows of ${folder}`,
  severity: 'error',
  comment: `${folder} may import ${allowed.join(', ') || 'nothing of the other folders'}`,
  from: { path: `^${folder}`, pathNot: [TEST_FILES, ...moreSpecific(folder).map((one) => `^${one}`)] },
  to: { path: LOCAL, pathNot: [folder, ...allowed].map((one) => `^${one}`) },
}))

/** Tests may reach across their own top folder, and the shared test helpers of the server. */
const TOP = { core: ['core'], contract: ['core', 'contract'], server: ['core', 'contract', 'server', 'demo'] }
const tests = Object.entries(TOP).map(([top, allowed]) => ({
  name: `tests of ${top}`,
  severity: 'error',
  from: { path: `^${top}/`, pathNot: 'server/testing/' },
  to: { path: LOCAL, pathNot: `^(${allowed.join('|')})/` },
}))

export default {
  forbidden: [
    { name: 'no cycles between files', severity: 'error', from: {}, to: { circular: true } },
    { name: 'imports resolve', severity: 'error', from: {}, to: { couldNotResolve: true } },
    {
      name: 'declared packages only',
      severity: 'error',
      from: {},
      to: { dependencyTypes: ['npm-no-pkg', 'npm-unknown'] },
    },
    {
      name: 'no development packages in the product',
      severity: 'error',
      from: { path: '^(core|contract|server|web)/', pathNot: TEST_FILES },
      to: { dependencyTypes: ['npm-dev'], dependencyTypesNot: ['type-only'] },
    },
    ...arrows,
    ...tests,
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^(dist|\\.esquina)' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'default', 'node'],
    },
  },
}
