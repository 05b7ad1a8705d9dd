import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

/** An import may only point down: core imports nothing of ours, server and interface never each other. */
/** @param {string} regex @param {string} message @returns {import('eslint').Linter.RulesRecord} */
const layer = (regex, message) => ({
  'no-restricted-imports': ['error', { patterns: [{ regex, message }] }],
});
const WORLD = '^node:|^\\$app|^svelte|^kysely|^pg$|^sharp|^@sveltejs|^openseadragon';

export default ts.config(
  { ignores: ['build/', '.svelte-kit/', 'node_modules/', '.mindful/', '.build/'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...ts.configs.strict,
  ...svelte.configs.recommended,
  { languageOptions: { globals: { ...globals.browser, ...globals.node } } },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: { parserOptions: { parser: ts.parser, svelteConfig } },
  },
  {
    rules: {
      'no-undef': 'off',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': ['error', { disallowTypeAnnotations: false }],
      'svelte/no-navigation-without-resolve': 'off',
      eqeqeq: 'error',
    },
  },
  {
    files: ['src/lib/core/**'],
    rules: layer(
      `${WORLD}|#server|\\$lib|lib/(ui|server)`,
      'core imports nothing but core: no I/O, no framework, no interface',
    ),
  },
  {
    files: ['src/lib/server/**'],
    rules: layer('\\$lib/ui|lib/ui|\\.svelte$', 'the server does not know the interface'),
  },
  {
    files: ['src/**/*.ts'],
    ignores: ['src/lib/server/sight/**', 'src/lib/server/db/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        ...[
          'Literal[value=/deleted_?at/i]',
          'TemplateElement[value.raw=/deleted_at/]',
          'Identifier[name=deletedAt]',
        ].map((selector) => ({ selector, message: 'who may see what is asked of server/sight' })),
      ],
    },
  },
  {
    files: ['src/routes/**', 'src/lib/server/{rooms,edge,collections}/**'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              regex: 'files/(located|door)$',
              allowTypeImports: true,
              message: 'where an original lies is asked of server/sight, by viewer and purpose',
            },
          ],
        },
      ],
    },
  },
  {
    files: ['src/lib/ui/**'],
    rules: layer('#server|lib/server|^node:', 'the interface does not know the server'),
  },
);
