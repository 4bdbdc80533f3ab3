import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { less, rest, sub, total } from '../quantity/quantity.ts';
import { allocate } from './allocate.ts';
import type { AskedFact } from '../facts/fact.ts';
import { askExpiry, askFacts, fillCells, type Chosen, type Stock } from './cells.ts';

const today = '2026-11-24';
const lot = (number: string, qty: string, expiresOn: string | null = null, more: Partial<Stock> = {}): Stock => ({
	...{
		mark: number,
		number,
		place: 'A1',
		qty,
		expiresOn,
		status: 'released',
		since: '2026-01-01',
		serial: false,
		kind: 'lot',
		lot: null,
		facts: {},
		lotFacts: null
	},
	...more
});

describe('first expired, first out', () => {
	it('takes over as many lots as needed, the earliest date first, and says why a lot is left out', () => {
		const stock = [lot('late', '10', '2028-01-01'), lot('soon', '4', '2026-12-01'), lot('old', '9', '2026-11-23'), lot('held', '9', '2026-12-02', { status: 'held' }), lot('other', '5', '2026-11-30', { promised: '5' }), lot('undated', '99')]; // prettier-ignore
		const { picks, short, leftOut } = allocate('12', stock, today);
		expect(picks.map((p) => `${p.mark} ${p.qty}`)).toEqual(['soon 4', 'late 8']);
		expect(short).toBe('0');
		expect(leftOut.map((l) => `${l.number}: ${l.reason}`)).toEqual(['old: expired 2026-11-23', 'held: on hold', 'other: picked for another order']); // prettier-ignore
	});
	it('expires at the end of its day, not before', () =>
		expect(allocate('1', [lot('x', '1', today)], today).picks).toHaveLength(1));
	it('without dates the first to arrive goes first, serials by number', () => {
		const stock = [lot('B', '1', null, { since: '2026-05-01' }), lot('A', '1', null, { since: '2026-06-01' })];
		expect(allocate('2', stock, today).picks.map((p) => p.mark)).toEqual(['B', 'A']);
		const serials = ['S10', 'S9', 'S1'].map((n) => lot(n, '1', null, { serial: true, kind: 'serial' }));
		expect(allocate('3', serials, today).picks.map((p) => p.mark)).toEqual(['S1', 'S9', 'S10']);
	});
	it('never takes more than is free, never leaves free stock while something is short', () => {
		const any = fc.record({ qty: fc.integer({ min: 1, max: 50 }), promised: fc.integer({ min: 0, max: 60 }), day: fc.constantFrom(null, '2026-11-01', '2026-12-01', '2027-05-01'), held: fc.boolean() }); // prettier-ignore
		fc.assert(
			fc.property(fc.array(any, { maxLength: 12 }), fc.integer({ min: 1, max: 200 }), (list, need) => {
				const stock = list.map((s, i) =>
					lot(`L${i}`, String(s.qty), s.day, { promised: String(s.promised), status: s.held ? 'held' : 'released' })
				);
				const { picks, short } = allocate(String(need), stock, today);
				const free = total(
					stock
						.filter((s) => s.status === 'released' && !(s.expiresOn && s.expiresOn < today))
						.map((s) => rest(s.qty, s.promised!))
				);
				expect(total([...picks.map((p) => p.qty), short])).toBe(String(need));
				expect(short).toBe(rest(String(need), free));
				const days = picks.map((p) => stock.find((s) => s.mark === p.mark)!.expiresOn ?? '9999');
				expect(days).toEqual([...days].sort());
			})
		);
	});
});

describe('cells', () => {
	const boards = ['VB-1', 'VB-2', 'VB-3'].map((n) => lot(n, '1', null, { serial: true, kind: 'serial' }));
	const pick = (unit: string | null, mark: string, qty = '1', more: Partial<Chosen> = {}): Chosen => ({ id: 'd-' + mark, version: 1, unit, mark, place: 'A1', qty, facts: {}, ...more }); // prettier-ignore
	it('each unit gets its own serial; what is chosen for one is not suggested for another', () => {
		const { cells } = fillCells([{ unit: 'WM-1', need: '1' }, { unit: 'WM-2', need: '1' }], [pick('WM-2', 'VB-1')], boards, today); // prettier-ignore
		expect(cells.map((c) => c.picks.map((p) => p.number))).toEqual([['VB-2'], ['VB-1']]);
		expect(cells[1].picks[0].id).toBe('d-VB-1');
	});
	it('deals a lot out over units, and over to the next lot', () => {
		const { cells } = fillCells(['a', 'b', 'c'].map((unit) => ({ unit, need: '2' })), [], [lot('C-1', '3'), lot('C-2', '9', null, { since: '2026-02-01' })], today); // prettier-ignore
		expect(cells.map((c) => c.picks.map((p) => `${p.number} ${p.qty}`))).toEqual([
			['C-1 2'],
			['C-1 1', 'C-2 1'],
			['C-2 2']
		]);
	});
	it.each([
		['gone', [pick(null, 'VB-9')], 'is not at A1 any more'],
		['twice', [pick(null, 'VB-1'), pick(null, 'VB-1')], '1 are at A1; 2 are taken here'],
		['unreadable', [pick(null, 'VB-1', 'x', { problem: '“x” is not a quantity.' })], 'is not a quantity']
	])('stops a choice that is %s', (_what, chosen, message) => {
		const [cell] = fillCells([{ unit: null, need: '2' }], chosen, boards, today).cells;
		expect(cell.picks[0].findings[0]).toMatchObject({ level: 'stop', message: expect.stringContaining(message) });
	});
	it('asks for a reason when an expired lot is chosen, and stops a held one', () => {
		const stock = [lot('E', '5', '2026-11-01'), lot('H', '5', null, { status: 'held' })];
		const [cell] = fillCells([{ unit: null, need: '2' }], [pick(null, 'E'), pick(null, 'H')], stock, today).cells;
		expect(cell.picks.map((p) => p.findings[0].level)).toEqual(['reason', 'stop']);
	});
	it('what is taken and what is short make the need, cell by cell', () => {
		fc.assert(
			fc.property(fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 8 }), fc.array(fc.integer({ min: 1, max: 15 }), { maxLength: 6 }), (needs, lots) => {
				const { cells } = fillCells(needs.map((n, i) => ({ unit: `u${i}`, need: String(n) })), [], lots.map((q, i) => lot(`L${i}`, String(q))), today);
				cells.forEach((c) => expect(sub(c.need, c.short)).toBe(total(c.picks.map((p) => p.qty))));
				const firstShort = cells.findIndex((c) => c.short !== '0');
				if (firstShort >= 0) expect(cells.slice(firstShort + 1).every((c) => less('0', c.short))).toBe(true);
			})
		); // prettier-ignore
	});
});

describe('what is asked of stock that goes', () => {
	const temp: AskedFact = { code: 'TEMP', name: 'Temperature', kind: 'number', unit: '°C', decimals: 1, low: null, high: '8', choices: [], outside: 'stop', per: 'lot', how: 'required' }; // prettier-ignore
	const cal: AskedFact = { ...temp, code: 'CAL', name: 'Calibration', per: 'piece', how: 'asked' };
	const cellsOf = (stock: Stock[], chosen: Chosen[] = []) => fillCells([{ unit: null, need: String(stock.length) }], chosen, stock, today).cells; // prettier-ignore
	const serial = (n: string, facts = {}, lotFacts: Stock['lotFacts'] = {}) => lot(n, '1', null, { serial: true, kind: 'serial', facts, lotFacts }); // prettier-ignore
	it('is said of each that lacks it; a lot’s fact counts for its serials, a piece’s only for itself', () => {
		const stock = [serial('A', {}, { TEMP: '4' }), serial('B', { TEMP: '4', CAL: '1' }), serial('C', { CAL: '1' }, {})];
		const cells = cellsOf(stock);
		askFacts(cells, [temp, cal], stock);
		const said = cells[0].picks.map((p) => `${p.number}: ${p.findings.map((f) => f.message).join(' ')}`);
		expect(said).toEqual([
			'A: Calibration is not given. Enter it, or say why there is none.',
			// A serial that belongs to a lot has the lot's facts from the lot.
			'B: Temperature is missing. Type it in.',
			'C: Temperature is missing. Type it in.'
		]);
	});
	it('is checked as it is typed, and kept as it is kept everywhere', () => {
		const stock = [lot('L', '5', null)];
		const typed = (value: string) => {
			const cells = cellsOf(stock, [{ id: 'd', version: 1, unit: null, mark: 'L', place: 'A1', qty: '5', facts: { TEMP: value } }]); // prettier-ignore
			askFacts(cells, [temp], stock);
			return cells[0].picks[0];
		};
		expect(typed('04.50')).toMatchObject({ facts: { TEMP: '4.5' }, findings: [] });
		expect(typed('9').findings).toMatchObject([{ level: 'stop', message: expect.stringContaining('at most 8 °C') }]);
	});
	it.each([
		['not asked', null, []],
		['asked', null, ['reason: has no expiry date. Type it, or say why there is none.']],
		['required', null, ['stop: has no expiry date. Type it from the label.']],
		['required', '2030-01-01', []]
	] as const)('an expiry date, %s, with %s recorded', (how, expiresOn, want) => {
		const cells = cellsOf([lot('L', '5', expiresOn)]);
		askExpiry(cells, how);
		expect(cells[0].picks[0].findings.map((f) => `${f.level}: ${f.message}`)).toEqual(want);
	});
	it('nothing is asked of stock without a number: there is nothing to keep it with', () => {
		const stock = [lot('CAPS', '5', null, { kind: 'unmarked' })];
		const cells = cellsOf(stock);
		askFacts(cells, [temp], stock);
		askExpiry(cells, 'required');
		expect(cells[0].picks[0].findings).toEqual([]);
	});
});
