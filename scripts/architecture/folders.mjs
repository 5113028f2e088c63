/** Checks that no imports between folders form a cycle. Tests are left out: they may reach across folders. */
import rules from './imports.mjs'

export default {
  forbidden: [
    {
      name: 'no cycles between folders',
      severity: 'error',
      scope: 'folder',
      from: {},
      to: { circular: true },
    },
  ],
  options: {
    ...rules.options,
    exclude: { path: ['^dist', '^\\.esquina', '\\.(test|e2e)\\.tsx?$', '(^|/)testing/'] },
  },
}
