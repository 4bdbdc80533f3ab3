import { describe, expect, it } from 'vitest';
import { fillCells, type Stock } from '../allocation/cells.ts';
import type { SheetLine } from './sheet.ts';
import { walkOf } from './walk.ts';

const TODAY = '2026-11-24';
const stock = (kind: 'lot' | 'serial', number: string, place: string, qty = '1', lot: string | null = null): Stock => ({
	...{ mark: number, number, lot, place, qty, serial: kind === 'serial', kind },
	...{ expiresOn: null, status: 'released', since: number, facts: {}, lotFacts: null }
});
const line = (
	no: number,
	need: string,
	of: Stock[],
	more: { promised?: string[]; chosen?: [string, string][] } = {}
) => {
	const chosen = (more.chosen ?? []).map(([mark, qty]) => ({
		...{ id: `row ${mark}`, version: 1, unit: null, mark, qty, facts: {}, evidence: 'scanned' as const },
		place: of.find((s) => s.mark === mark)!.place
	}));
	const { cells } = fillCells([{ unit: null, need }], chosen, of, TODAY);
	const promises = (more.promised ?? []).map((mark) => ({ mark, rest: '1', over: null }));
	return {
		...{ id: `l${no}`, no, item: `ITEM${no}`, itemName: `Item ${no}`, unit: 'each' },
		cells,
		promises
	} as unknown as SheetLine;
};
const said = (lines: SheetLine[]) =>
	walkOf(lines).map(
		(w) =>
			`${w.place} ${w.no} ${w.numbers.join(',')} ${w.qty}${w.state === 'suggested' ? '' : ` ${w.state}`}${w.promised ? ' promised' : ''}`
	);

describe('the way through the bins', () => {
	const meters = ['1', '2', '3', '7'].map((n) => stock('serial', `M-${n}`, 'QS/A10', '1', 'ML'));
	const gel = [stock('lot', 'G-1', 'QS/A2', '5'), stock('lot', 'G-2', 'QS/A10', '9')];
	it('goes by the natural order of the bins, there line by line, with serials as ranges', () => {
		expect(said([line(2, '8', gel), line(1, '4', meters)])).toEqual([
			'QS/A2 2 G-1 5',
			'QS/A10 1 M-1 … M-3,M-7 4',
			'QS/A10 2 G-2 3'
		]);
	});
	it('keeps what is in hand at its bin, and says what is still to be taken for the rest', () => {
		// A swap: another one than the first was taken.
		expect(said([line(1, '3', meters, { chosen: [['M-7', '1']] })])).toEqual([
			'QS/A10 1 M-1 … M-2 2',
			'QS/A10 1 M-7 1 picked'
		]);
		expect(said([line(1, '8', gel, { chosen: [['G-2', '6']] })])).toEqual(['QS/A2 1 G-1 2', 'QS/A10 1 G-2 6 picked']);
		// Of the lot in hand so much was said: no more of it is suggested, and there is nothing else.
		expect(said([line(1, '8', gel.slice(1), { chosen: [['G-2', '6']] })])).toEqual(['QS/A10 1 G-2 6 picked']);
	});
	it('tells what is promised apart, and leaves out a choice of none', () => {
		expect(said([line(1, '2', meters, { promised: ['M-1'] })])).toEqual(['QS/A10 1 M-1 1 promised', 'QS/A10 1 M-2 1']);
		expect(said([line(1, '2', gel, { chosen: [['G-1', '0']] })])).toEqual([]);
	});
});
