import { sveltekit } from '@sveltejs/kit/vite';
import { defineConfig } from 'vitest/config';
import { optimizeCss } from 'carbon-preprocess-svelte';

/** Carbon's stylesheet names fonts on an outside host; Earmark ships its own. */
const dropOutsideFonts = {
	name: 'drop-outside-fonts',
	enforce: 'pre' as const,
	transform: (code: string, id: string) =>
		id.includes('carbon-components-svelte/css') ? code.replace(/@font-face\s*\{[^}]*\}/g, '') : undefined
};

export default defineConfig({
	plugins: [dropOutsideFonts, sveltekit(), optimizeCss()],
	build: {
		target: 'es2022',
		rolldownOptions: {
			output: {
				// A few files that every view shares, instead of dozens of small ones for each.
				codeSplitting: {
					groups: [
						{ name: 'chart', test: /node_modules[\\/](chart\.js|@kurkle)[\\/]/, priority: 2 },
						{ name: 'controls', test: /node_modules[\\/]/ },
						{ name: 'parts', test: /src[\\/]lib[\\/](ui|core)[\\/]/ }
					]
				}
			}
		}
	},
	test: {
		projects: [
			{
				test: {
					name: 'core',
					include: ['src/lib/core/**/*.test.ts', 'src/lib/ui/**/*.test.ts'],
					environment: 'node',
					isolate: false,
					testTimeout: 120_000
				}
			},
			{
				test: {
					name: 'server',
					include: ['src/lib/server/**/*.test.ts', 'tests/db/**/*.test.ts'],
					environment: 'node',
					// Each file has a database of its own on one server, which waits for disks and callers half the time.
					maxWorkers: 2,
					isolate: false,
					sequence: { groupOrder: 1 },
					testTimeout: 300_000,
					hookTimeout: 300_000
				}
			},
			{
				test: {
					name: 'browser',
					include: ['tests/e2e/**/*.test.ts'],
					environment: 'node',
					maxWorkers: 2,
					isolate: false,
					sequence: { groupOrder: 2 },
					// What is waited for comes when the machine gets to it.
					expect: { poll: { timeout: 120_000 } },
					testTimeout: 600_000,
					hookTimeout: 600_000
				}
			}
		]
	}
});
