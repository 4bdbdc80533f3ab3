import { sveltekit } from '@sveltejs/kit/vite';
import { defineConfig } from 'vitest/config';

export default defineConfig({
	plugins: [sveltekit()],
	build: { target: 'es2022' },
	test: {
		projects: [
			{
				test: {
					name: 'core',
					include: ['src/lib/core/**/*.test.ts', 'src/lib/ui/**/*.test.ts'],
					environment: 'node'
				}
			},
			{
				test: {
					name: 'server',
					include: ['src/lib/server/**/*.test.ts', 'tests/db/**/*.test.ts'],
					environment: 'node',
					fileParallelism: false,
					testTimeout: 60_000,
					hookTimeout: 120_000
				}
			},
			{
				test: {
					name: 'browser',
					include: ['tests/e2e/**/*.test.ts'],
					environment: 'node',
					fileParallelism: false,
					testTimeout: 120_000,
					hookTimeout: 180_000
				}
			}
		]
	}
});
