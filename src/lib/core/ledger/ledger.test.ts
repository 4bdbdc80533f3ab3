import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { can, roles } from '../people/can.ts';
import { sayDid, type Happened } from './did.ts';
import { EVENT_KINDS, KINDS, kindsFor, rightsFor, ROLES, wayOf } from './events.ts';
import { VIRTUAL_PLACES, virtualPlace } from './places.ts';
import { STATUSES, worse } from './status.ts';
import { numberingRuns, stepOf, STEPS, type RunPart } from './steps.ts';

const at = (code: string) => ({ code, site: code.startsWith('@') ? null : code.split('/')[0] });
const ENDS = [...Object.keys(VIRTUAL_PLACES), 'QS/A1', 'NH/B1'];

describe('who may book what', () => {
	const may = (role: (typeof roles)[number], kind: string, from: string, to: string, part?: string) =>
		[...rightsFor(kind, [{ from, to, role: part }])].every((v) => can(role, v));

	/** What the right of a kind covers, told in words below. */
	const covered = (kind: unknown, from: string, to: string, role?: string) => {
		const m = `${virtualPlace(from) ? from : 'shelf'} ${to.startsWith('@') ? to : 'shelf'} ${role ?? '-'}`;
		return Object.hasOwn(COVERED, String(kind)) && COVERED[String(kind)].includes(m);
	};
	const COVERED: Record<string, string[]> = {
		service: ['shelf @process use', '@process shelf detach', '@process @scrap detach', 'shelf @scrap -'],
		return: ['shelf @scrap -'],
		repack: ['@process @scrap make']
	};
	it('each end that lies outside the shelves asks for its right, whatever the role or the kind', () => {
		for (const kind of [...KINDS, '__proto__', {}, null])
			for (const from of ENDS)
				for (const to of ENDS)
					for (const role of [undefined, ...ROLES]) {
						const rights = rightsFor(kind, [{ from, to, role }]);
						const [out, into] = [virtualPlace(from), virtualPlace(to)];
						if (covered(kind, from, to, role)) continue;
						if (out) expect(rights).toContain(out.from);
						if (into) expect(rights).toContain(into.to);
						if (role) expect(rights).toContain('book production');
					}
	});
	it('what a repacking loses is part of it; servicing takes parts out and in, and scraps what is left, and no more', () => {
		expect(may('assembly', 'repack', '@process', '@scrap', 'make')).toBe(true);
		expect(may('assembly', 'output', '@process', '@scrap', 'make')).toBe(false);
		expect(may('assembly', 'repack', 'QS/A1', '@scrap')).toBe(false);
		for (const [from, to, role] of [
			['QS/A1', '@process', 'use'],
			['@process', 'QS/A1', 'detach'],
			['@process', '@scrap', 'detach'],
			['QS/A1', '@scrap', undefined]
		])
			expect(may('service', 'service', from!, to!, role)).toBe(true);
		for (const [from, to, role] of [
			['@process', 'QS/A1', 'make'],
			['@process', '@customer', 'detach'],
			['@supplier', '@scrap', undefined],
			['QS/A1', 'QS/A2', undefined]
		])
			expect(may('service', 'service', from!, to!, role)).toBe(false);
		expect(may('assembly', 'service', 'QS/A1', '@process', 'use')).toBe(false);
	});
	it('assembly ships, receives, adjusts and scraps nothing by giving it a role', () => {
		for (const [from, to] of [
			['QS/A1', '@customer'],
			['@supplier', 'QS/A1'],
			['@adjust', 'QS/A1'],
			['QS/A1', '@scrap']
		])
			for (const role of ROLES) expect(may('assembly', 'use', from, to, role)).toBe(false);
		expect(may('assembly', 'use', 'QS/A1', '@process', 'use')).toBe(true);
	});
	it('receiving scraps nothing that it receives, and an unknown end of the ledger is no place of ours', () => {
		expect(may('receiving and shipping', 'receipt', '@supplier', '@scrap')).toBe(false);
		expect(may('receiving and shipping', 'receipt', '@supplier', 'QS/A1')).toBe(true);
	});
	it('who may move stock may do so through the interface for programs too', () => {
		expect(may('receiving and shipping', 'move', 'QS/A1', 'QS/A2')).toBe(true);
		expect(may('assembly', 'move', 'QS/A1', 'QS/A2')).toBe(false);
	});
	it('an event without movements still asks the right of its kind', () => {
		expect([...rightsFor('undo', [])]).toEqual(['undo']);
		expect([...rightsFor('no such kind', [])]).toEqual(['book any event']);
		expect([...rightsFor('move', [null, 7, 'x', []])]).toContain('move stock');
	});
	it('every kind and every place names a right that somebody has', () => {
		for (const { right } of Object.values(EVENT_KINDS)) expect(roles.some((r) => can(r, right))).toBe(true);
		for (const p of Object.values(VIRTUAL_PLACES))
			for (const v of [p.from, p.to]) expect(roles.some((r) => can(r, v))).toBe(true);
	});
});

describe('what a kind of event may move', () => {
	/** Every movement that there is, told once more by hand: from, to, role, the run. */
	const MAY: Record<string, string> = {
		receipt: '@supplier>shelf',
		move: 'shelf>shelf',
		transfer: 'shelf>shelf',
		use: 'shelf>@process use batch, shelf>@process use unit, @process>shelf detach batch',
		output:
			'shelf>@process use batch, shelf>@process use unit, @process>shelf make batch, @process>shelf make unit, @process>@scrap make batch, @process>@scrap make unit',
		issue: 'shelf>@job, @job>shelf',
		repack: 'shelf>@process use batch, @process>shelf make batch, @process>@scrap make batch',
		service: 'shelf>@process use unit, @process>shelf detach unit, @process>@scrap detach unit, shelf>@scrap',
		shipment: 'shelf>@customer, @customer>shelf, shelf>@process use batch, @process>shelf make batch',
		return: '@customer>shelf, shelf>@scrap',
		'supplier return': 'shelf>@supplier',
		scrap: 'shelf>@scrap',
		adjust: '@adjust>shelf, shelf>@adjust',
		count: 'shelf>shelf, shelf>@adjust, @adjust>shelf, @customer>shelf, @supplier>shelf, @job>shelf, @scrap>shelf',
		mark: 'shelf>@process use batch, @process>shelf make batch',
		correct: 'shelf>@process use batch, @process>shelf make batch'
	};
	it('is what stands in the table, and nothing else, over all pairs of places, roles and runs', () => {
		for (const kind of KINDS) {
			const may = (MAY[kind] ?? '').split(', ').filter(Boolean);
			const found: string[] = [];
			for (const from of ENDS)
				for (const to of ENDS)
					for (const role of [undefined, ...ROLES])
						for (const run of ['unit', 'batch', null] as const) {
							if (!wayOf(kind, { from, to, role }, run)) continue;
							const end = (place: string) => (virtualPlace(place) ? place : 'shelf');
							found.push([`${end(from)}>${end(to)}`, role, run].filter(Boolean).join(' '));
						}
			expect([...new Set(found)].sort(), kind).toEqual(may.sort());
		}
	});
	it('is nothing of an unknown kind, an unknown end or a role that there is none of', () => {
		for (const kind of ['__proto__', 'constructor', {}, null])
			expect(wayOf(kind, { from: 'QS/A1', to: 'QS/A2' })).toBe(null);
		expect(wayOf('move', { from: '@nowhere', to: 'QS/A1' })).toBe(null);
		expect(wayOf('use', { from: 'QS/A1', to: '@process', role: 'eat' })).toBe(null);
	});
	it('names another kind that may', () => {
		expect(kindsFor({ from: 'QS/A1', to: '@scrap' }, null)).toEqual(['scrap']);
	});
});

describe('steps', () => {
	it('every movement is a step of the rule, but for those of a correction, which is none', () => {
		for (const kind of KINDS)
			for (const from of ENDS)
				for (const to of ENDS)
					for (const role of [null, ...ROLES])
						expect(kind === 'correct' ? [null] : STEPS).toContain(stepOf({ kind, from: at(from), to: at(to), role }));
	});
	it.each([
		['receipt', '@supplier', 'QS/A1', null, 'receipt'],
		['move', 'QS/A1', 'QS/A2', null, 'move'],
		['move', 'QS/A1', 'NH/B1', null, 'transfer'],
		['issue', 'QS/A1', '@job', null, 'job use'],
		['repack', 'QS/A1', '@process', 'use', 'repack'],
		['repack', '@process', 'QS/A1', 'make', 'repack'],
		['service', '@process', 'QS/A1', 'detach', 'service part'],
		['adjust', '@adjust', 'QS/A1', null, 'adjustment in'],
		['scrap', 'QS/A1', '@scrap', null, 'adjustment out'],
		['count', 'QS/A1', '@adjust', null, 'count']
	] as const)('%s from %s to %s as %s is %s', (kind, from, to, role, step) =>
		expect(stepOf({ kind, from: at(from), to: at(to), role })).toBe(step)
	);
});

describe('runs that only give numbers', () => {
	const part = (
		role: 'use' | 'make',
		lot: string | null,
		serial: string | null = null,
		item = 'X'
	): RunPart<string> => ({ run: 'R', role, item, lot, serial, unit: false });
	const only = (...parts: RunPart<string>[]) => numberingRuns(parts).has('R');
	it('what has no number gets one; a lot’s pieces get serials', () => {
		expect(only(part('use', null), part('make', null, 'S1'), part('make', null, 'S2'))).toBe(true);
		expect(only(part('use', null), part('make', 'L1'))).toBe(true);
		expect(only(part('use', 'L1'), part('make', 'L1', 'S1'))).toBe(true);
	});
	it('rework and repacking are none: a number goes in and another comes out', () => {
		expect(only(part('use', 'L1'), part('make', 'L2'))).toBe(false);
		expect(only(part('use', 'L1'), part('make', 'L1'))).toBe(false);
		expect(only(part('use', null, 'S1'), part('make', null, 'S2'))).toBe(false);
		expect(only(part('use', 'L1'), part('make', 'L2', 'S1'))).toBe(false);
		expect(only(part('use', null), part('make', null))).toBe(false);
		expect(only(part('use', 'L1'), part('use', 'L2'), part('make', 'L1', 'S1'))).toBe(false);
	});
	it('another item, a unit’s own run, or a run with one side only is none', () => {
		expect(only(part('use', null, null, 'Y'), part('make', null, 'S1'))).toBe(false);
		expect(only({ ...part('use', null), unit: true }, { ...part('make', null, 'S1'), unit: true })).toBe(false);
		expect(only(part('make', null, 'S1'))).toBe(false);
		expect(only(part('use', null))).toBe(false);
	});
});

describe('status in force', () => {
	it('is the worse of a serial’s own and its lot’s: rejected, then held, quarantine, released', () => {
		expect(STATUSES).toEqual(['released', 'quarantine', 'held', 'rejected']);
		const status = fc.constantFrom(...STATUSES);
		fc.assert(
			fc.property(status, status, (own, lot) => {
				const now = worse(own, lot);
				expect([own, lot]).toContain(now);
				expect(STATUSES.indexOf(now)).toBe(Math.max(STATUSES.indexOf(own), STATUSES.indexOf(lot)));
				expect(worse(lot, own)).toBe(now);
			})
		);
		expect(worse('held', null)).toBe('held');
	});
});

describe('what an event did to a number', () => {
	const happened = (from: string, to: string, more: Partial<Happened> = {}): Happened => ({
		kind: 'move',
		from: at(from),
		to: at(to),
		role: null,
		partner: null,
		job: null,
		run: null,
		made: [],
		numbering: false,
		undoes: null,
		...more
	});
	it.each([
		[happened('@supplier', 'QS/A1', { partner: 'Varnholt' }), 'received from Varnholt'],
		[happened('QS/A1', '@process', { role: 'use', run: 'MO-1', made: ['WM-0207'] }), 'used for WM-0207'],
		[happened('QS/A1', '@process', { role: 'use', run: 'MO-1' }), 'used for run MO-1'],
		[happened('QS/A1', '@process', { role: 'use', run: 'N', made: ['S1'], numbering: true }), 'numbered as S1'],
		[happened('@process', 'QS/A1', { role: 'make', run: 'MO-1' }), 'made in MO-1'],
		[happened('@process', 'QS/A1', { role: 'detach', run: 'MO-1', made: ['WM-1'] }), 'taken out of WM-1'],
		[happened('QS/A1', '@customer', { partner: 'Sken' }), 'shipped to Sken'],
		[happened('QS/A1', '@job', { job: 'Pier 4' }), 'issued to Pier 4'],
		[happened('QS/A1', '@scrap'), 'scrapped'],
		[happened('QS/A1', 'QS/A2'), 'moved to QS/A2'],
		[happened('QS/A1', 'NH/B1'), 'transferred to NH/B1'],
		[happened('QS/A1', 'QS/A2', { undoes: '7' }), 'undid an earlier booking'],
		[{ ...happened('QS/A1', 'QS/A2', { kind: 'hold' }), from: null, to: null }, 'put on hold']
	])('%#: %s', (h, says) => expect(sayDid(h)).toBe(says));
});
