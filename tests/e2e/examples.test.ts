import { describe, expect, it } from 'vitest';
import type { Role } from '../../src/lib/core/people/can.ts';
import { OPERATIONS, operationOf } from '../../src/lib/server/api/contract.ts';
import { EXAMPLES, type Example } from '../../src/lib/server/api/examples.ts';
import { findingsOf } from '../db/cluster.ts';
import { startApp } from './app.ts';

// An empty firm: the examples set it up.
const app = startApp({ demo: false });

/** A value somewhere in something that was answered. */
const valueAt = (of: unknown, path: string[]): unknown =>
	path.reduce((v: unknown, name) => (v as Record<string, unknown> | undefined)?.[name], of);
/** An example with what only the server knows. */
function filled(example: Example, answers: ReadonlyMap<string, unknown>): Example {
	const own = structuredClone(example) as Example & Record<string, unknown>;
	for (const [place, where] of Object.entries(example.from ?? {})) {
		const [name, ...path] = where.split('.');
		const value = valueAt(answers.get(name), path);
		expect(value, `${example.call}: ${where}`).toBeDefined();
		const at = place.split('.');
		(valueAt(own, at.slice(0, -1)) as Record<string, unknown>)[at[at.length - 1]] = value;
	}
	return own;
}

describe('the examples of the contract', () => {
	it('each call answers its own as it says, and what they booked holds', async () => {
		const tokens = new Map<Role, string>();
		const answers = new Map<string, unknown>();
		for (const example of EXAMPLES) {
			const { call, name, params = {}, query = {}, body, as = 'coordinator' } = filled(example, answers);
			const [method, form] = call.split(' ');
			const path = form.replace(/\{(\w+)\}/g, (_all, part: string) => encodeURIComponent(params[part]));
			if (!tokens.has(as)) tokens.set(as, await app.token(as));
			const answer = await fetch(`${app.base}${path}?${new URLSearchParams(query)}`, {
				method,
				headers: { 'content-type': 'application/json', authorization: `Bearer ${tokens.get(as)}` },
				...(body === undefined ? {} : { body: JSON.stringify(body) })
			});
			const { operation } = operationOf(method, path)!;
			const says = operation.answers[answer.status];
			const text = await answer.text();
			expect(says, `${call} ${path}: ${answer.status} ${text.slice(0, 400)}`).toBeDefined();
			if (says.type) {
				expect(answer.headers.get('content-type'), call).toMatch(/^(application\/pdf|image\/png)$/);
				expect(text.length, call).toBeGreaterThan(50);
				continue;
			}
			const said = JSON.parse(text) as Record<string, unknown>;
			expect(says.schema.safeParse(said).error, call).toBeUndefined();
			// What is asked of a scan is whether it was taken.
			if ('taken' in said) expect([call, said.said, said.taken]).toEqual([call, said.said, true]);
			if (name) answers.set(name, said);
		}
		expect(await findingsOf(app.sql)).toEqual([]);
	});
	it('there is one of every call', () => {
		const shown = new Set(EXAMPLES.map((e) => e.call));
		// A list is asked as it stands.
		const without = OPERATIONS.filter((o) => !o.path.startsWith('/api/v1/lists/')).map((o) => `${o.method} ${o.path}`);
		expect(without.filter((call) => !shown.has(call))).toEqual([]);
		expect([...shown].filter((call) => !OPERATIONS.some((o) => `${o.method} ${o.path}` === call))).toEqual([]);
	});
	it.each(OPERATIONS.filter((o) => o.path.startsWith('/api/v1/lists/')))(
		'$path lists what its screen does',
		async (o) => {
			const token = await app.token('administrator');
			const answer = await fetch(`${app.base}${o.path}?count=3`, { headers: { authorization: `Bearer ${token}` } });
			expect([answer.status, o.answers[200].schema.safeParse(await answer.json()).error], o.path).toEqual([
				o.right === 'read' || answer.status === 200 ? 200 : 403,
				undefined
			]);
		}
	);
});
