import ts from 'typescript-eslint';
import { createNodeResolver, importX } from 'eslint-plugin-import-x';
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
/** The rooms of the server that belong to one subject each: they meet in shared rooms, never in each other. */
const areas = [
	'inbound',
	'production',
	'outbound',
	'stock',
	'register',
	'quality',
	'aftercare',
	'recall',
	'trace',
	'setup'
];
/** A type that is only claimed hides what the next change breaks. */
const holes = [
	{ selector: 'TSAsExpression > TSNeverKeyword', message: 'No `as never`: give it its type.' },
	{ selector: 'TSAsExpression > TSAnyKeyword', message: 'No `as any`: give it its type.' },
	{
		selector: 'TSAsExpression > TSAsExpression > TSUnknownKeyword',
		message: 'No `as unknown as`: give it its type.'
	}
];

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
	...areas.map((area) => ({
		files: [`src/lib/server/${area}/**/*.ts`],
		ignores: ['**/*.test.ts'],
		rules: {
			'no-restricted-imports': [
				'error',
				{
					patterns: [
						{ group: ['**/ui/**', 'svelte', '$app/**', ...routes], message: 'server imports core only' },
						{
							group: areas.filter((other) => other !== area).map((other) => `../${other}/**`),
							message: 'no area imports another: what two of them need stands in a shared room'
						}
					]
				}
			]
		}
	})),
	{
		files: ['src/**/*.ts', 'src/**/*.svelte'],
		plugins: { 'import-x': importX },
		settings: {
			'import-x/extensions': ['.ts', '.svelte'],
			'import-x/parsers': { '@typescript-eslint/parser': ['.ts'] },
			'import-x/resolver-next': [createNodeResolver({ extensions: ['.ts', '.svelte', '.js'] })]
		},
		rules: { 'import-x/no-cycle': ['error', { ignoreExternal: true }] }
	},
	{
		files: ['src/**/*.ts', 'src/**/*.svelte', 'cmd/**', 'demo/**'],
		ignores: ['**/*.test.ts'],
		rules: { 'no-restricted-syntax': ['error', ...holes] }
	},
	{
		files: ['src/**/*.svelte'],
		// Ours by design: what a form sends unseen, the fields of a grid, the scan line, the head of a sheet's line.
		ignores: [
			'src/lib/ui/fields/{Hidden,GridField}.svelte',
			'src/lib/ui/shell/ScanLine.svelte',
			'src/lib/ui/sheet/LineHead.svelte'
		],
		rules: {
			'svelte/no-restricted-html-elements': [
				'error',
				{
					elements: ['button', 'input', 'select', 'textarea', 'table', 'thead', 'tbody', 'tr', 'th', 'td', 'dialog'],
					message: 'Take Carbon’s component, or a part of src/lib/ui/fields.'
				}
			]
		}
	},
	{
		files: ['src/lib/ui/**/*'],
		rules: forbid(['**/server/**', '$lib/server/**', ...routes], 'ui imports core only')
	},
	{
		files: ['cmd/**', 'tests/**', 'demo/**', '**/*.test.ts'],
		rules: { 'no-console': 'off' }
	},
	{ ignores: ['build*/', '.svelte-kit*/', 'node_modules/', '.data/', 'docs/'] }
);
