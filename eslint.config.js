// Lint rules: TypeScript's strict set, React hooks, and purity of core. scripts/architecture/ checks which folder imports which.
import js from '@eslint/js'
import ts from 'typescript-eslint'
import hooks from 'eslint-plugin-react-hooks'

const OPTIONAL_CALL_OF_AWAIT = {
  selector: 'CallExpression[optional=true] > AwaitExpression.arguments',
  message: 'without the callback, the awaited call would not happen: await it first',
}

export default ts.config(
  { ignores: ['dist', 'node_modules', '.esquina*', 'demo/cobble-lane', 'test-results'] },
  js.configs.recommended,
  ...ts.configs.strict,
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', ignoreRestSiblings: true }],
      '@typescript-eslint/no-extraneous-class': 'off',
      '@typescript-eslint/switch-exhaustiveness-check': 'off',
      eqeqeq: 'error',
      'no-console': 'error',
      'no-restricted-syntax': ['error', OPTIONAL_CALL_OF_AWAIT],
    },
  },
  {
    files: ['scripts/**', 'bench/**', 'server/start.ts'],
    rules: { 'no-console': 'off' },
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        performance: 'readonly',
        setTimeout: 'readonly',
        URL: 'readonly',
      },
    },
  },
  { files: ['web/**'], plugins: { 'react-hooks': hooks }, rules: hooks.configs.recommended.rules },
  {
    files: ['core/**'],
    ignores: ['**/*.test.ts', 'core/testing/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        OPTIONAL_CALL_OF_AWAIT,
        {
          selector: "CallExpression[callee.object.name='Date'][callee.property.name='now']",
          message: 'core takes the time as a parameter',
        },
        {
          selector: "NewExpression[callee.name='Date'][arguments.length=0]",
          message: 'core takes the time as a parameter',
        },
        {
          selector: "CallExpression[callee.object.name='Math'][callee.property.name='random']",
          message: 'core takes seeds as parameters',
        },
        { selector: 'ImportDeclaration[source.value=/^node:/]', message: 'core does no I/O' },
      ],
    },
  },
)
