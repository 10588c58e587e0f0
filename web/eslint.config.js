import { createNodeResolver, importX } from 'eslint-plugin-import-x';
import a11y from 'eslint-plugin-jsx-a11y-x';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Folders of `src`, lowest first: each may import those before it, none after it. */
const ORDER = ['api', 'plate', 'state', 'ui', 'kinds', 'bench', 'screens'];

const zones = ORDER.map((folder, at) => ({
  target: `./src/${folder}`,
  from: ORDER.slice(at + 1).map((above) => `./src/${above}`),
  message: `${folder} stands below it: ${ORDER.join(' < ')}.`,
})).filter(({ from }) => from.length);

export default tseslint.config(
  { ignores: ['src/api/schema.gen.ts'] },
  ...tseslint.configs.recommended,
  a11y.configs.recommended,
  importX.flatConfigs.typescript,
  {
    files: ['src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks, 'import-x': importX },
    settings: { 'import-x/resolver-next': [createNodeResolver({ extensions: ['.ts', '.tsx'] })] },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      'import-x/no-restricted-paths': ['error', { zones }],
      'import-x/no-cycle': 'error',
    },
  },
);
