import hooks from 'eslint-plugin-react-hooks';
import typescript from 'typescript-eslint';

export default typescript.config(
  { ignores: ['dist', 'node_modules', 'coverage', 'migrations'] },
  ...typescript.configs.strict,
  {
    files: ['**/*.ts', '**/*.tsx'],
    rules: {
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      eqeqeq: 'error',
      'no-console': 'error',
    },
  },
  {
    files: ['src/core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      // The engine has no clock and no luck of its own: both come in as arguments.
      'no-restricted-properties': [
        'error',
        { object: 'Date', property: 'now' },
        { object: 'Math', property: 'random' },
        { object: 'DateTime', property: 'now' },
        { object: 'performance', property: 'now' },
      ],
      'no-restricted-syntax': [
        'error',
        {
          selector: "NewExpression[callee.name='Date'][arguments.length=0]",
          message: 'Core has no clock: take the instant as an argument.',
        },
      ],
      'no-restricted-globals': ['error', 'process', 'setTimeout', 'setInterval', 'fetch', 'performance', 'crypto'],
    },
  },
  {
    files: ['src/console/**/*.tsx', 'src/console/**/*.ts'],
    plugins: { 'react-hooks': hooks },
    rules: hooks.configs.recommended.rules,
  },
  { files: ['bench/**', 'tests/**'], rules: { 'no-console': 'off' } },
);
