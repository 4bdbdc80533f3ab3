import fc from 'fast-check';
import type { Schema } from '../src/lib/server/api/openapi.ts';

/** Text that a hostile or careless caller might send where text is asked. */
const odd = fc.constantFrom(
	'',
	' ',
	'0',
	'-1',
	'1e9',
	'NaN',
	'999999999999999999999',
	'\u0000',
	'\ud800',
	"'; DROP TABLE mark; --",
	'2026-02-30',
	'9999-12-31',
	'a'.repeat(5000),
	'＜✓\u202e',
	'__proto__'
);
const anything = fc.oneof(
	odd,
	fc.integer(),
	fc.double(),
	fc.boolean(),
	fc.constant(null),
	fc.jsonValue({ maxDepth: 2 })
);

/** Values that a schema allows, as far as its form says. @param known values by field names that mean something to the firm */
export function valuesOf(s: Schema, known: Record<string, readonly string[]> = {}, name = ''): fc.Arbitrary<unknown> {
	if (s.const !== undefined) return fc.constant(s.const);
	if (s.enum) return fc.constantFrom(...s.enum);
	if (s.anyOf) return fc.oneof(...s.anyOf.map((x) => valuesOf(x, known, name)));
	switch (s.type) {
		case 'object': {
			const own = Object.entries(s.properties ?? {});
			const required = s.required ?? [];
			const fields = Object.fromEntries(own.map(([key, value]) => [key, valuesOf(value, known, key)]));
			return own.length
				? fc.record(fields, { requiredKeys: required.filter((key) => key in fields) })
				: fc.dictionary(
						fc.constantFrom('A', 'TEMP', '1'),
						valuesOf(typeof s.additionalProperties === 'object' ? s.additionalProperties : {}, known)
					);
		}
		case 'array':
			return fc.array(valuesOf(s.items ?? {}, known, name), { maxLength: 3 });
		case 'integer':
		case 'number':
			return fc.integer({ min: s.minimum ?? 0, max: Math.min(s.maximum ?? 1000, 1000) });
		case 'boolean':
			return fc.boolean();
		case 'null':
			return fc.constant(null);
		case 'string': {
			if (s.format === 'date') return fc.constantFrom('2026-03-14', '2027-12-31');
			if (s.format === 'date-time' || name === 'at')
				return fc.constantFrom('2026-03-14T09:30:00Z', '2026-11-01T00:00:00+02:00');
			const common = fc.constantFrom(...(known[name] ?? ['X-1', 'L-1', '1', 'Some words']));
			// A date’s own pattern looks ahead, which cannot be made up from.
			return s.pattern && !s.pattern.includes('(?')
				? fc.oneof(common, fc.stringMatching(new RegExp(s.pattern)))
				: common;
		}
		default:
			return fc.oneof(fc.constantFrom('1', 'X-1'), fc.integer({ min: 0, max: 9 }));
	}
}

/** A value with one thing in it that is wrong: left out, of another type, too much, or a field that there is not. */
export const nearMiss = (values: fc.Arbitrary<unknown>): fc.Arbitrary<unknown> =>
	fc
		.tuple(values, fc.nat(), fc.constantFrom('drop', 'swap', 'add', 'whole'), anything)
		.map(([value, n, how, wrong]) => {
			if (how === 'whole') return wrong;
			const copy: unknown = structuredClone(value);
			const holders: Record<string, unknown>[] = [];
			const walk = (v: unknown) => {
				if (!v || typeof v !== 'object') return;
				holders.push(v as Record<string, unknown>);
				Object.values(v).forEach(walk);
			};
			walk(copy);
			if (!holders.length) return wrong;
			const holder = holders[n % holders.length];
			const keys = Object.keys(holder);
			const key = how === 'add' || !keys.length ? 'extra' : keys[n % keys.length];
			if (how === 'drop') delete holder[key];
			else holder[key] = wrong;
			return copy;
		});
