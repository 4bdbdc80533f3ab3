import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { headsOf, received, sent, withPart, type SheetPart } from './sent.ts';
import type { Cell, PickRow, SheetLine, SheetRow, SheetState } from './sheet.ts';

const finding = fc.record({
	code: fc.constantFrom('a', 'b'),
	level: fc.constant('stop' as const),
	message: fc.string()
});
const facts = fc.dictionary(fc.constantFrom('COLOUR', 'WIDTH'), fc.string(), { noNullPrototype: true });
const qty = fc.constantFrom('1', '0', '2.5', '40', 'x');
const row = fc.record<SheetRow>({
	...{ id: fc.constantFrom(...'abcdefgh'), version: fc.nat(3), by: fc.constantFrom('', 'Ines'), count: fc.nat(3) },
	...{ lot: fc.constantFrom('', 'L-1'), serial: fc.constantFrom('', 'S-1'), last: fc.constantFrom('S-1', 'S-9') },
	...{ step: fc.constantFrom(1, 2), qty, expiresOn: fc.constantFrom('', '2027-03-31'), supplierLot: fc.constant('') },
	...{ supplierSerial: fc.constant(''), madeOn: fc.constant(''), cost: fc.constantFrom('', '12.5') },
	...{ place: fc.constantFrom('', 'QS/A1'), facts, known: fc.constantFrom('', 'scanned') },
	...{ findings: fc.array(finding, { maxLength: 2 }), expiryWorkedOut: fc.boolean(), expiryFrom: fc.constant('') }
});
const pick = fc.record<PickRow>({
	...{ id: fc.option(fc.constantFrom(...'ijklm')), version: fc.nat(2), mark: fc.constantFrom('1', '2', '3', '4') },
	...{ kind: fc.constantFrom('lot' as const, 'serial' as const), number: fc.string(), lot: fc.option(fc.string()) },
	...{ place: fc.constantFrom('', 'QS/A1', 'QS/A2'), qty, expiresOn: fc.constantFrom(null, '2027-01-01') },
	...{ expiryTyped: fc.constant(''), facts, evidence: fc.constantFrom('accepted' as const, 'scanned' as const) },
	...{ findings: fc.array(finding, { maxLength: 1 }) }
});
const once = <T>(of: fc.Arbitrary<T>, key: (t: T) => string) => fc.uniqueArray(of, { selector: key, maxLength: 6 });
const picks = once(pick, (p) => p.id ?? `${p.mark} ${p.place}`);
const cell = fc.record({
	...{ unit: fc.constantFrom(null, 'U-1', 'U-2'), need: qty, picks, short: qty },
	offers: fc.constant<Cell['offers']>([])
});
const line = fc.record({
	...{ id: fc.constantFrom('1', '2', '3'), no: fc.nat(3), item: fc.constant('WM'), entered: qty },
	...{ rows: once(row, (r) => r.id), cells: once(cell, (c) => c.unit ?? '') }
}) as fc.Arbitrary<unknown> as fc.Arbitrary<SheetLine>;
const sheet = fc.record({
	...{ code: fc.constant('PO-1'), long: fc.boolean(), stamp: fc.string(), missing: fc.constant([]) },
	lines: once(line, (l) => l.id)
}) as fc.Arbitrary<unknown> as fc.Arbitrary<SheetState>;
/** As it comes through the wire. */
const wired = <T>(x: T): T => JSON.parse(JSON.stringify(x)) as T;

describe('a sheet as it is sent', () => {
	it('arrives as it is, told whole', () => {
		fc.assert(
			fc.property(sheet, (state) => {
				expect(received(wired(sent(state, null, null).sent), null)).toEqual(state);
			})
		);
	});
	it('arrives as it is, told by what changed since any other', () => {
		fc.assert(
			fc.property(fc.array(sheet, { minLength: 2, maxLength: 5 }), (states) => {
				let [had, was]: [SheetState | null, Parameters<typeof sent>[1]] = [null, null];
				for (const [n, state] of states.entries()) {
					const told = sent(state, was, `is ${n}`);
					had = received(wired(told.sent), had);
					expect(had).toEqual(state);
					was = { is: `is ${n}`, remembered: told.remembered };
				}
			}),
			{ numRuns: 60 }
		);
	});
	it('says nothing of what is as it was', () => {
		fc.assert(
			fc.property(sheet, (state) => {
				const first = sent(state, null, 'first');
				const { lines, since } = sent(state, { is: 'first', remembered: first.remembered }, 'second').sent;
				expect(since).toBe('first');
				expect(lines).toEqual(state.lines.map(({ id }) => ({ id, rows: { set: [] }, cells: { set: [] } })));
			})
		);
	});
	it('of ten thousand rows the one that changed is sent, and nothing else', () => {
		const rows = Array.from({ length: 10_000 }, (_, n): SheetRow => plainRow(`r${n}`, `S-${n}`));
		const state = { lines: [{ id: '1', rows, cells: [] }] } as unknown as SheetState;
		const first = sent(state, null, 'first');
		const changed = rows.map((r, n) => (n === 7000 ? { ...r, version: 2, lot: 'L-9' } : r));
		const next = { lines: [{ id: '1', rows: changed, cells: [] }] } as unknown as SheetState;
		const { lines } = sent(next, { is: 'first', remembered: first.remembered }, 'second').sent;
		expect(lines[0].rows).toEqual({ set: [{ id: 'r7000', serial: 'S-7000', version: 2, lot: 'L-9' }] });
		expect(JSON.stringify(first.sent).length / 10_000).toBeLessThan(60);
	});
	it('shows its heads before its rows are read', () => {
		const state = { long: true, lines: [{ id: '1', entered: '3', rows: [plainRow('a', 'S-1')], cells: [] }] };
		const heads = headsOf(sent(state as unknown as SheetState, null, null).sent);
		expect(heads.lines).toEqual([{ id: '1', entered: '3', rows: [], cells: [] }]);
	});
});

const plainRow = (id: string, serial: string): SheetRow => ({
	...{ id, version: 1, by: '', lot: '', serial, last: serial, count: 1, step: 1, qty: '1', expiresOn: '' },
	...{ supplierLot: '', supplierSerial: '', madeOn: '', cost: '', place: '', facts: {}, known: '', findings: [] },
	...{ expiryWorkedOut: false, expiryFrom: '' }
});
const plainPick = (id: string | null, mark: string, qty = '1'): PickRow => ({
	...{ id, version: 1, mark, kind: 'serial', number: mark, lot: null, place: 'QS/A1', qty, expiresOn: null },
	...{ expiryTyped: '', facts: {}, evidence: 'scanned', findings: [] }
});
const part = (more: Partial<SheetPart>): SheetPart => ({ rows: [], picks: [], gone: [], ...more });

describe('what one change was about', () => {
	const rows = [plainRow('a', 'S-1'), plainRow('b', 'S-2')];
	const goods = { id: '1', entered: '2', rows, cells: [] };
	const state = { scans: [], lines: [goods, { ...goods, id: '2' }] } as unknown as SheetState;
	it('takes its row’s place, or stands after the others, and counts', () => {
		const longer = { ...plainRow('b', 'S-2'), count: 5, qty: '5' };
		const now = withPart(state, part({ rows: [longer, plainRow('c', 'S-9')].map((row) => ({ line: '1', row })) }));
		expect(now.lines[0].rows.map((r) => `${r.id} ${r.qty}`)).toEqual(['a 1', 'b 5', 'c 1']);
		expect(now.lines[0].entered).toBe('7');
		expect(now.lines[1]).toBe(state.lines[1]);
	});
	it('takes out what is gone', () => {
		expect(withPart(state, part({ gone: ['a'] })).lines[0]).toMatchObject({ entered: '1', rows: [{ id: 'b' }] });
	});
	it('takes the place of a suggestion: where anything is chosen, nothing goes by itself', () => {
		const cells = [{ unit: null, need: '3', short: '0', offers: [], picks: [plainPick(null, '7', '3')] }];
		const takes = { scans: [], lines: [{ id: '1', entered: '3', rows: [], cells }] } as unknown as SheetState;
		const [line] = withPart(takes, part({ picks: [{ line: '1', unit: null, pick: plainPick('p', '8') }] })).lines;
		expect(line.cells[0].picks).toEqual([plainPick(null, '7', '2'), plainPick('p', '8')]);
		expect(line.entered).toBe('3');
	});
});
