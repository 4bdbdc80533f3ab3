import { describe, expect, it } from 'vitest';
import { traceForward } from './forward.ts';
import { presentTrace, type MarkName, type NamedSlice } from './present.ts';
import type { Moved } from './types.ts';

/** A lot A that is split, run by run, as the rows say: what goes in, what comes out. */
function ledger(
	runs: Record<string, { planned?: string; closed?: boolean }>,
	moves: [mark: string, qty: string, role: 'in' | 'use' | 'make', run?: string][],
	decimals = 0
): NamedSlice {
	const mark = (id: string): MarkName => ({
		id,
		kind: 'lot',
		number: id,
		lot: null,
		item: `ITEM-${id}`,
		itemName: id,
		unit: 'kg',
		decimals,
		expiresOn: null,
		status: 'released'
	});
	const place = (code: string) => [code, { id: code, code, virtual: code.startsWith('@') }] as const;
	return {
		marks: new Map(moves.map(([id]) => [id, mark(id)])),
		runs: new Map(Object.entries(runs).map(([code, r]) => [code, { id: code, code, unit: null, ...r }])),
		places: new Map(['@supplier', '@process', 'SHELF'].map(place)),
		partners: new Map(),
		jobs: new Map(),
		movements: moves.map(([id, qty, role, run], i): Moved => ({
			id: String(i + 1),
			at: `2026-03-01T08:00:${String(i).padStart(2, '0')}.000000Z`,
			mark: id,
			qty,
			from: role === 'in' ? '@supplier' : role === 'use' ? 'SHELF' : '@process',
			to: role === 'use' ? '@process' : 'SHELF',
			run: run ?? null,
			role: role === 'in' ? null : role,
			partner: null,
			event: String(i + 1)
		}))
	};
}
const where = (slice: NamedSlice) =>
	[...traceForward(slice, ['A']).where].map((w) => `${w.mark ?? w.run} ${w.state}: ${w.content.toFraction()}`);
const shown = (slice: NamedSlice) =>
	presentTrace(slice, ['A'], traceForward(slice, ['A']), { events: new Map(), gone: new Map(), time: (t) => t });

describe('an open run with a planned quantity', () => {
	// Domain: content spreads over what is made and what is still planned, by quantity; worked by hand.
	const moves: Parameters<typeof ledger>[1] = [
		['A', '10', 'in'],
		['A', '10', 'use', 'R'],
		['P', '2', 'make', 'R']
	];
	it('keeps the share of what is still to come in process', () => {
		expect(where(ledger({ R: { planned: '5' } }, moves))).toEqual(['P on hand: 4', 'R in process: 6']);
	});
	it('gives all of it to what came out once it is closed, or when nothing was planned', () => {
		expect(where(ledger({ R: { planned: '5', closed: true } }, moves))).toEqual(['P on hand: 10']);
		expect(where(ledger({ R: {} }, moves))).toEqual(['P on hand: 10']);
	});
	it('gives more than planned its share of what is left', () => {
		expect(where(ledger({ R: { planned: '1' } }, moves))).toEqual(['P on hand: 10']);
	});
});

describe('a share that has no end of digits', () => {
	const thirds = ledger({ R: {} }, [
		['A', '20', 'in'],
		['A', '20', 'use', 'R'],
		['P', '1', 'make', 'R'],
		['Q', '1', 'make', 'R'],
		['S', '1', 'make', 'R']
	]);
	it('is told apart by up to three decimals, so that what is shown adds up to the whole', () => {
		expect(shown(thirds)).toMatchObject({
			rootQty: '20',
			shares: true,
			where: [{ content: '6.667' }, { content: '6.667' }, { content: '6.666' }],
			balance: [{ state: 'on hand', content: '20' }],
			accounted: true
		});
		const fine = shown({ ...thirds, marks: new Map([...thirds.marks].map(([id, m]) => [id, { ...m, decimals: 2 }])) });
		expect(fine.where.map((w) => w.content)).toEqual(['6.667', '6.667', '6.666']);
		expect(fine.steps[0].outputs.map((o) => o.content)).toEqual(['6.667', '6.667', '6.666']);
	});
	it('is drawn as high as it is, not as it is rounded', () => {
		expect(shown(thirds).where.map((w) => w.part)).toEqual([1 / 3, 1 / 3, 1 / 3]);
	});
});

it('the balance tells what is here before what is gone, in whatever order it went', () => {
	const whole = ledger({}, [['A', '20', 'in']]);
	const [came] = whole.movements;
	const went = (id: string, qty: string, from: string, to: string): Moved => ({
		...{ ...came, id, at: `2026-03-02T08:00:0${id}.000000Z`, qty, from, to, partner: 'C' }
	});
	const slice: NamedSlice = {
		...whole,
		places: new Map([...whole.places, ['@customer', { id: '@customer', code: '@customer', virtual: true }]]),
		partners: new Map([['C', { code: 'C', name: 'A customer' }]]),
		movements: [came, went('2', '20', 'SHELF', '@customer'), went('3', '15', '@customer', 'SHELF')]
	};
	expect(shown(slice).balance).toEqual([
		{ state: 'on hand', content: '15', count: 1 },
		{ state: 'shipped', content: '5', count: 1 }
	]);
});
