import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

/** Every file of code under a folder. */
const files = (folder: string): string[] =>
	readdirSync(folder, { withFileTypes: true, recursive: true })
		.filter((f) => f.isFile() && /\.(ts|mjs|js)$/.test(f.name))
		.map((f) => join(f.parentPath, f.name));

/**
 * Where each program comes from that the application, its start and its tests call: Node.js, or a package that every Debian
 * system has. PostgreSQL's own and the browser are called by their paths, and installed by the launcher.
 */
const KNOWN: Record<string, 'Node.js' | `Debian's ${string}`> = {
	npm: 'Node.js',
	npx: 'Node.js',
	id: "Debian's coreutils",
	runuser: "Debian's util-linux",
	mount: "Debian's mount",
	umount: "Debian's mount"
};

/** Programs that a text names as what is started: the first text after a call that starts one, or a list that begins with one. */
function called(code: string): string[] {
	if (!code.includes('child_process')) return [];
	const names = code.matchAll(
		/(?:\b(?:spawn|spawnSync|exec|execSync|execFile|execFileSync)\)?\(\s*|\? \[)'([a-z][a-z0-9_-]*)'/g
	);
	return [...names].map((n) => n[1]);
}

describe('programs that are called', () => {
	const found = new Map(
		['src', 'cmd', 'tests'].flatMap((folder) =>
			files(folder).flatMap((f) => called(readFileSync(f, 'utf8')).map((p) => [p, f]))
		)
	);
	it('are all found by looking', () => {
		const sample = `import 'node:child_process'; execFileSync(${"'"}pdftotext', [])`;
		expect(called(sample)).toEqual(['pdftotext']);
		expect([...found.keys()]).toEqual(expect.arrayContaining(['npx', 'runuser', 'id']));
	});
	it('come with Node.js or stand on every Debian system', () => {
		const installed = readFileSync('/var/lib/dpkg/status', 'utf8').split('\n\n');
		for (const [program, file] of found) {
			const from = KNOWN[program];
			expect(from, `${program}, called in ${file}: nothing installs it`).toBeDefined();
			if (from === 'Node.js') continue;
			// The record that Debian keeps of what is installed.
			const record = installed.find((r) => r.startsWith(`Package: ${from.slice("Debian's ".length)}\n`));
			expect(record, program).toMatch(/^(Essential: yes|Priority: required)$/m);
		}
	});
	it('are installed by the launcher where they are neither', () => {
		const launcher = readFileSync('cmd/earmark.mjs', 'utf8');
		const paths = new Set(
			['src', 'cmd', 'tests'].flatMap((folder) =>
				files(folder).flatMap((f) => [...readFileSync(f, 'utf8').matchAll(/'\/usr\/bin\/([a-z-]+)'/g)].map((m) => m[1]))
			)
		);
		for (const program of paths) expect(launcher, program).toContain(`install(['${program}'])`);
		expect(launcher).toContain("install(['postgresql'])");
	});
});
