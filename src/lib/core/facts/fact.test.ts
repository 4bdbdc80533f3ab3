import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { checkFacts, fileOf, limitsOf, readFact, showFact, type AskedFact, type Fact } from './fact.ts';

const fact = (more: Partial<Fact> = {}): Fact => ({
	code: 'TEMP',
	name: 'Temperature',
	kind: 'number',
	unit: '°C',
	decimals: 1,
	low: '2',
	high: '8',
	choices: [],
	outside: 'reason',
	per: 'lot',
	...more
});
const plain = { unit: null, decimals: 0, low: null, high: null };
const text = fact({ ...plain, code: 'CERT', name: 'Certificate no.', kind: 'text' });
const day = fact({ ...plain, code: 'CAL', name: 'Calibrated on', kind: 'date' });
const choice = fact({ ...plain, code: 'PACK', name: 'Packaging', kind: 'choice', choices: ['sound', 'wet'] });
const file = fact({ ...plain, code: 'COA', name: 'Certificate of analysis', kind: 'file' });
const sha = 'a'.repeat(64);

describe('a value as typed', () => {
	it.each([
		[fact(), ' 4.50 ', { value: '4.5' }],
		[fact(), '007', { value: '7' }],
		[fact(), '−1', { value: '-1', outside: 'Temperature −1 °C is outside 2 to 8 °C.' }],
		[fact(), '-0', { value: '0', outside: 'Temperature 0 °C is outside 2 to 8 °C.' }],
		[fact(), '8', { value: '8' }],
		[fact(), '8.1', { value: '8.1', outside: 'Temperature 8.1 °C is outside 2 to 8 °C.' }],
		[text, ' CoA-12 ', { value: 'CoA-12' }],
		[day, '3 Mar 2027', { value: '2027-03-03' }],
		[choice, 'WET', { value: 'wet' }],
		[file, `${sha} coa.pdf`, { value: `${sha} coa.pdf` }]
	] as const)('%j takes “%s”', (f, typed, want) => expect(readFact(f as Fact, typed)).toEqual(want));
	it.each([
		[fact(), 'warm', '“warm” is not a number. Type digits'],
		[fact(), '4.55', '4.55 has 2 decimals; at most 1 are kept'],
		[fact({ decimals: 0 }), '4.5', 'whole numbers are kept'],
		[fact(), '4,5', 'decimals come after a point here. Type 4.5'],
		[text, 'x'.repeat(201), 'more than 200 characters'],
		[day, '31 Feb 2027', 'in the calendar'],
		[choice, 'dry', '“dry” is none of its choices: sound, wet'],
		[file, 'coa.pdf', 'add the file'],
		[text, '  ', 'nothing is typed']
	] as const)('%j refuses “%s”, with the way out', (f, typed, why) => {
		const read = readFact(f as Fact, typed);
		expect('problem' in read && read.problem).toContain(why);
		expect('problem' in read && read.problem.startsWith(f.name)).toBe(true);
	});
	it('reads back what it shows, for every number that it keeps', () => {
		fc.assert(
			fc.property(fc.integer({ min: -99_999, max: 99_999 }), fc.integer({ min: 0, max: 4 }), (n, decimals) => {
				const f = fact({ decimals, low: null, high: null, unit: null });
				const typed = (n / 10 ** decimals).toFixed(decimals);
				const read = readFact(f, typed);
				expect('value' in read && Number(read.value)).toBeCloseTo(Number(typed), 6);
				// Reading it again changes nothing: values that are equal are the same text.
				if ('value' in read) expect(readFact(f, read.value)).toEqual(read);
			})
		);
	});
	it('is outside exactly when it is below the lower or above the upper limit', () => {
		const limit = fc.integer({ min: -50, max: 50 });
		fc.assert(
			fc.property(limit, limit, limit, (a, b, n) => {
				const [low, high] = [Math.min(a, b), Math.max(a, b)];
				const read = readFact(fact({ low: String(low), high: String(high) }), String(n));
				expect('outside' in read && !!read.outside).toBe(n < low || n > high);
			})
		);
	});
});

describe('what is shown', () => {
	it.each([
		[{ low: '2', high: '8' }, '2 to 8 °C'],
		[{ low: null, high: '0.5' }, 'at most 0.5 °C'],
		[{ low: '-20', high: null }, 'at least −20 °C'],
		[{ low: null, high: null }, '']
	])('limits %j are “%s”', (limits, want) => expect(limitsOf(fact(limits))).toBe(want));
	it('a value with its unit, a day as people write it, a file by its name', () => {
		expect(showFact(fact(), '1234.5')).toBe('1,234.5 °C');
		expect(showFact(day, '2027-03-03')).toBe('3 Mar 2027');
		expect(showFact(file, `${sha} coa (1).pdf`)).toBe('coa (1).pdf');
		expect(fileOf(`${sha} coa.pdf`)).toEqual({ sha256: sha, name: 'coa.pdf' });
		expect(fileOf('coa.pdf')).toBeNull();
	});
});

describe('the facts of one lot', () => {
	const asked: AskedFact[] = [
		{ ...fact(), how: 'required' },
		{ ...text, how: 'asked' }
	];
	it('missing: a stop where required, a reason where asked, and neither is wrong, only open', () => {
		const { values, findings } = checkFacts(asked, {});
		expect(values).toEqual({});
		expect(findings).toEqual([
			{ level: 'stop', open: true, message: 'Temperature is missing. Type it in.' },
			{ level: 'reason', open: true, message: 'Certificate no. is not given. Enter it, or say why there is none.' }
		]);
	});
	it('recorded already are not asked again; another value replaces, and says so', () => {
		expect(checkFacts(asked, {}, { TEMP: '4', CERT: 'C' }).findings).toEqual([]);
		expect(checkFacts(asked, { TEMP: '5', CERT: 'C' }, { TEMP: '4', CERT: 'C' }).findings).toEqual([
			{ level: 'note', message: 'Temperature was 4 °C; this replaces it, and both stay in its history.' }
		]);
	});
	it.each([
		['stop', ' Put it aside, or measure again.'],
		['reason', ' Say why it is taken.'],
		['note', '']
	] as const)('recorded outside what are its limits here: %s, each time the step asks it', (outside, way) => {
		const asks: AskedFact[] = [{ ...fact({ outside }), how: 'required' }];
		expect(checkFacts(asks, {}, { TEMP: '31' })).toEqual({
			values: {},
			findings: [{ level: outside, message: `Temperature 31 °C is outside 2 to 8 °C.${way}` }]
		});
		// Measured again it counts as it is now.
		expect(checkFacts(asks, { TEMP: '5' }, { TEMP: '31' }).findings.map((f) => f.level)).toEqual(['note']);
		// What is said of it beside this is held where it is said.
		expect(checkFacts(asks, {}, {}, { TEMP: '31' }).findings).toEqual([]);
	});
	it.each(['stop', 'reason', 'note'] as const)('outside their limits: %s, as the fact says', (outside) => {
		const { values, findings } = checkFacts([{ ...fact({ outside }), how: 'asked' }], { TEMP: '31' });
		expect(values).toEqual({ TEMP: '31' });
		expect(findings).toHaveLength(1);
		expect(findings[0]).toMatchObject({ level: outside, message: expect.stringContaining('outside 2 to 8 °C') });
		expect(findings[0].open).toBeUndefined();
	});
});
