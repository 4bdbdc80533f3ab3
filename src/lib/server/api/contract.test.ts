import { readdirSync, readFileSync } from 'node:fs';
import { Validator } from '@seriousme/openapi-schema-validator';
import { describe, expect, it } from 'vitest';
import { OPERATIONS } from './contract.ts';
import { openapi } from './openapi.ts';

/** What only screens call, and what programs do instead. */
const OTHERWISE: Record<string, string> = {
	addJob: 'PUT jobs makes one where there is none',
	addPartner: 'PUT partners makes one where there is none',
	addPlace: 'PUT places makes one where there is none',
	bookSheet: 'books what a person saw; a program books what there is, or sends the stamp',
	chooseColumns: 'which columns a person sees',
	chooseDateLanguage: 'the language that a person reads dates in',
	endSessions: 'ends one’s own sessions in a browser; a program has its token',
	importOrders: 'a table of orders; a program posts each',
	nextSale: 'the sale that is empty still, or a new one; a program posts one',
	printCards: 'cards as a page to print; POST labels prints them on labels, for programs too',
	saveRows: 'row by row as it is typed; PUT rows fills the sheet',
	scanOnFloor: 'a card that is scanned; POST steps does what it stands for',
	sessionsOf: 'one’s own sessions in a browser; a program has its token'
};

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
	it('has what the screens do: whatever a route does in somebody’s name, a call does too', () => {
		const routes = readdirSync('src/routes', { recursive: true, encoding: 'utf8' }).filter(
			(f) => /\+(page\.)?server\.ts$/.test(f) && !f.startsWith('api/')
		);
		const acting = routes.flatMap((f) =>
			[...readFileSync(`src/routes/${f}`, 'utf8').matchAll(/(\w+)\(\s*pool\(\),\s*who\b/g)].map((m) => m[1])
		);
		expect(acting.length).toBeGreaterThan(60);
		const calls = [
			'src/lib/server/acts.ts',
			...readdirSync('src/lib/server/api').flatMap((f) => (f.includes('.test.') ? [] : `src/lib/server/api/${f}`))
		]
			.map((f) => readFileSync(f, 'utf8'))
			.join('\n');
		const without = [...new Set(acting)].filter((name) => !new RegExp(`\\b${name}\\b`).test(calls));
		expect(without.sort()).toEqual(Object.keys(OTHERWISE).sort());
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
