import { readdirSync, readFileSync } from 'node:fs';
import { isBuiltin } from 'node:module';
import { join } from 'node:path';
import { expect, it } from 'vitest';

/*
 * What runs on an installation without development packages: threads, commands and PDFs read their packages when they
 * need them, so a build that works here does not show that one is missing there.
 */
const sources = ['src/lib/core', 'src/lib/server', 'cmd', 'demo'].flatMap((folder) =>
	readdirSync(folder, { recursive: true, encoding: 'utf8' })
		.filter((f) => /\.ts$/.test(f) && !/\.test\.ts$|^(dev|test)\.ts$/.test(f))
		.map((f) => join(folder, f))
);
const { dependencies } = JSON.parse(readFileSync('package.json', 'utf8')) as { dependencies: Record<string, string> };
/** Packages of the framework: bundled into the build, and imported by nothing that runs from its source. */
const BUNDLED = ['@sveltejs/kit', 'svelte'];

it('every package that runs from its source is installed with the application, the typefaces of PDFs too', () => {
	const missing = new Set<string>();
	for (const file of sources) {
		const text = readFileSync(file, 'utf8');
		const named = [
			...text.matchAll(/\bfrom '([^'.$/][^'\n]*)';$|\bimport\('([^'.$/][^'\n]*)'\)|folder\('([^']+)'\)/gm)
		].map((m) => m[1] ?? m[2] ?? m[3]);
		for (const name of named) {
			const own = name
				.split('/')
				.slice(0, name.startsWith('@') ? 2 : 1)
				.join('/');
			if (!isBuiltin(name) && !dependencies[own] && !BUNDLED.includes(own)) missing.add(`${own} (${file})`);
		}
	}
	expect([...missing]).toEqual([]);
});
