import ts from 'typescript-eslint';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import svelteConfig from './svelte.config.js';

/**
 * The layering rule: core knows nothing but core; server knows core; ui knows core; nothing knows routes.
 * @param {string[]} patterns
 * @param {string} message
 */
const forbid = (patterns, message) => ({
	'no-restricted-imports': ['error', { patterns: [{ group: patterns, message }] }]
});
const routes = ['$routes/*', '**/routes/**'];

export default ts.config(
	...ts.configs.recommended,
	...svelte.configs.recommended,
	{
		languageOptions: { globals: { ...globals.browser, ...globals.node } },
		rules: {
			'no-console': 'error',
			'@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
			'svelte/no-navigation-without-resolve': 'off',
			'svelte/require-each-key': 'error',
			// Maps and URLSearchParams here are values made anew by $derived, not state that changes.
			'svelte/prefer-svelte-reactivity': 'off',
			'svelte/no-unused-svelte-ignore': 'off',
			'svelte/no-useless-mustaches': 'off'
		}
	},
	{
		files: ['**/*.svelte', '**/*.svelte.ts'],
		languageOptions: {
			parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'], svelteConfig }
		},
		rules: { 'no-undef': 'off' }
	},
	{
		files: ['src/lib/core/**/*.ts'],
		ignores: ['**/*.test.ts'],
		rules: forbid(
			['**/server/**', '**/ui/**', '$lib/**', '$app/**', 'svelte*', 'postgres', 'node:*', ...routes],
			'core imports nothing but core and pure libraries'
		)
	},
	{
		files: ['src/lib/server/**/*.ts'],
		rules: forbid(['**/ui/**', 'svelte', '$app/**', ...routes], 'server imports core only')
	},
	{
		files: ['src/lib/ui/**/*'],
		rules: forbid(['**/server/**', '$lib/server/**', ...routes], 'ui imports core only')
	},
	{
		files: ['cmd/**', 'tests/**', 'demo/**', '**/*.test.ts'],
		rules: { 'no-console': 'off' }
	},
	{ ignores: ['build/', '.svelte-kit/', 'node_modules/', '.data/', 'docs/'] }
);
