import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	cursorText,
	filterWords,
	PAGE_SIZE,
	PAGE_SIZES,
	readCursor,
	readView,
	shownColumns,
	viewParams,
	type Column,
	type ListView
} from './list.ts';

const columns: Column[] = [
	{ key: 'code', label: 'Code', kind: 'text' },
	{ key: 'state', label: 'State', kind: 'choice', choices: [{ value: 'open', label: 'open' }] },
	{ key: 'due', label: 'Due', kind: 'day' },
	{ key: 'numbers', label: 'Numbers', kind: 'number', extra: true },
	{ key: 'says', label: 'Says', kind: 'text', computed: true },
	{ key: 'which', label: 'Which', kind: 'choice', filterOnly: true }
];
const shape = { columns, sort: { key: 'code', down: false } };
const read = (text: string) => readView(shape, new URLSearchParams(text));

describe('the address of a list', () => {
	it('says what is found, narrowed and sorted', () => {
		expect(read('find=abc&code=PO&due.from=2027-03-01&numbers.to=12.5&sort=-due&size=100')).toEqual({
			find: 'abc',
			filters: { code: { is: 'PO' }, due: { from: '2027-03-01' }, numbers: { to: '12.5' } },
			sort: { key: 'due', down: true },
			after: null,
			before: null,
			size: 100
		});
	});
	it.each([
		['a date that is none', 'due.from=31.3.27'],
		['a day that no month has', 'due.to=2027-13-01'],
		['a day that this month has not', 'due.to=2027-02-30'],
		['a cursor of another column', 'sort=code&after=[1,"x",0]'],
		['a number that is none', 'numbers.from=ten'],
		['a column that neither narrows nor sorts', 'says=x&sort=says'],
		['a column that there is not', 'other=x&sort=other'],
		['a size that is not offered', 'size=100000'],
		['a cursor that is none', 'after=[1,2]&before={"a":1}']
	])('leaves out %s', (_what, text) => {
		expect(read(text)).toEqual(read(''));
	});
	it('is read back as it was written, whatever is asked', () => {
		const text = fc.string({ minLength: 1, maxLength: 30 }).filter((t) => t.trim() === t && t !== '');
		const day = fc.date({ min: new Date('1990-01-01'), max: new Date('2090-01-01'), noInvalidDate: true });
		const view: fc.Arbitrary<ListView> = fc.record({
			find: fc.oneof(fc.constant(''), text),
			filters: fc.record(
				{
					code: fc.record({ is: text }),
					due: fc.record({ from: day.map((d) => d.toISOString().slice(0, 10)) }),
					numbers: fc.record({ from: fc.integer().map(String), to: fc.integer().map(String) })
				},
				{ requiredKeys: [] }
			),
			sort: fc.record({ key: fc.constantFrom('code', 'state', 'due', 'numbers'), down: fc.boolean() }),
			after: fc.constant(null),
			before: fc.constant(null),
			size: fc.constantFrom(...PAGE_SIZES)
		});
		fc.assert(
			fc.property(view, (v) => {
				expect(read(viewParams(shape, v).toString())).toEqual(v);
			})
		);
	});
	it('says nothing when nothing is asked', () => {
		expect(viewParams(shape, read('')).toString()).toBe('');
		expect(read('').size).toBe(PAGE_SIZE);
	});
	it('a cursor holds any value', () => {
		fc.assert(
			fc.property(fc.option(fc.string()), fc.bigInt({ min: 1n, max: 10n ** 17n }), fc.nat(), (value, id, before) => {
				const c = { value, id: String(id), before };
				expect(readCursor(cursorText(c))).toEqual(c);
			})
		);
	});
});

describe('the columns of a list', () => {
	it('show unless they are extra, or as a person has chosen', () => {
		expect(shownColumns(columns, null).map((c) => c.key)).toEqual(['code', 'state', 'due', 'says']);
		expect(shownColumns(columns, ['numbers', 'code']).map((c) => c.key)).toEqual(['code', 'numbers']);
		expect(shownColumns(columns, ['gone']).map((c) => c.key)).toEqual(['code', 'state', 'due', 'says']);
	});
	it('say how they are narrowed', () => {
		expect(filterWords(columns[1], { is: 'open' })).toBe('State: open');
		expect(filterWords(columns[2], { from: '2027-03-01', to: '2027-03-31' })).toBe('Due: 1 Mar 2027 to 31 Mar 2027');
		expect(filterWords(columns[2], { from: '2027-03-01', to: '2027-03-01' })).toBe('Due: 1 Mar 2027');
		expect(filterWords(columns[2], { to: '2027-03-31' })).toBe('Due: up to 31 Mar 2027');
		expect(filterWords(columns[0], undefined)).toBeNull();
	});
});
