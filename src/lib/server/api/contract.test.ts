import { readdirSync } from 'node:fs';
import { Validator } from '@seriousme/openapi-schema-validator';
import { describe, expect, it } from 'vitest';
import { OPERATIONS } from './contract.ts';
import { openapi } from './openapi.ts';

describe('the description of the interface for programs', () => {
	it('is OpenAPI 3.1, as the published schema says', async () => {
		const validator = new Validator();
		const { valid, errors } = await validator.validate(structuredClone(openapi(OPERATIONS)));
		expect([valid, errors]).toEqual([true, undefined]);
		expect(validator.version).toBe('3.1');
	});
	it('has an entry for every call that is served: no route stands beside it', () => {
		const files = readdirSync('src/routes/api', { recursive: true, encoding: 'utf8' }).filter((f) => f.includes('+'));
		expect(files).toEqual(['[...path]/+server.ts']);
	});
	it('gives each call its right, its answers and an example of each refusal', () => {
		const keys = OPERATIONS.map((o) => `${o.method} ${o.path}`);
		expect(new Set(keys).size).toBe(keys.length);
		for (const o of OPERATIONS) {
			expect(Object.keys(o.answers).length, o.path).toBeGreaterThan(0);
			// Whoever needs a right may be refused for the want of one.
			if (o.right) expect(Object.keys(o.refusals), o.path).toContain('401');
			if (o.body) expect(Object.keys(o.refusals), o.path).toEqual(expect.arrayContaining(['400', '403', '422']));
			for (const example of Object.values(o.refusals)) expect(example, o.path).toMatch(/\.$|…$/);
		}
		const described = openapi(OPERATIONS) as { paths: Record<string, Record<string, object>> };
		expect(
			Object.entries(described.paths).flatMap(([path, methods]) =>
				Object.keys(methods).map((m) => `${m.toUpperCase()} ${path}`)
			)
		).toEqual(expect.arrayContaining(keys));
	});
});
