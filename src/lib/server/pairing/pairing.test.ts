import { describe, expect, it } from 'vitest';
import { bookTest, ines, makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import { readGolden, type GoldenEvent } from '../../../../tests/golden/golden.ts';
import { MOST_COUNTED, readView } from '../../core/list/list.ts';
import { book } from '../ledger/book.ts';
import { countAll, listPage } from '../list/read.ts';
import { findPairings, type Pairing, type PairingsAsked } from './find.ts';
import { pairingList } from './list.ts';

const name = (m: { item: string | null; lot?: string | null; serial?: string | null }) =>
	m.item === null ? '–' : `${m.item} ${m.serial ?? m.lot ?? '–'}`;

/** Parts in units by a walk through the events as they were written: "part in made", with its quantity. */
function walked(events: readonly GoldenEvent[]): string[] {
	const undone = new Set(events.flatMap((e) => e.undoes ?? []));
	const real = events.filter((e) => e.kind !== 'undo' && !undone.has(e.key));
	const units = new Map(events.flatMap((e) => (e.runs ?? []).flatMap((r) => (r.unit ? [[r.code, r.unit]] : []))));
	const moved = real.flatMap((e) => e.movements.filter((m) => m.run));
	return moved
		.filter((m) => m.role === 'use')
		.flatMap((use) => {
			const unit = units.get(use.run!);
			const made = unit ? [unit] : moved.filter((m) => m.run === use.run && m.role === 'make');
			const here = moved.filter((m) => m.run === use.run && name(m) === name(use));
			const left = here.reduce(
				(sum, m) => sum + (m.role === 'use' ? 1 : m.role === 'detach' ? -1 : 0) * Number(m.qty),
				0
			);
			return [...new Set(made.length ? made.map(name) : ['–'])].map(
				(of) => `${name(use)} × ${Number(use.qty)} in ${of}${left <= 0 ? ', formerly' : ''}`
			);
		})
		.sort();
}
const said = (r: Pairing) =>
	`${name({ item: r.partItem, lot: r.partLot, serial: r.partSerial })} × ${Number(r.qty)} in ${name(r)}${r.formerly ? ', formerly' : ''}`;

describe.each([1, 2, 3])('what is in what in golden ledger %i', (n) => {
	const db = testDatabase();
	const { events } = readGolden(n).ledger;

	it('is what a walk through its events says, however small the pages', async () => {
		await makeItems(db.sql);
		for (const event of events) await book(db.sql, ines, event as never, { create: { places: true, partners: true } });
		const rows: Pairing[] = [];
		let after: string | null | undefined;
		do {
			const page = await findPairings(db.sql, {}, after ?? undefined, 7);
			expect(page.rows.length).toBeLessThanOrEqual(7);
			rows.push(...page.rows);
			after = page.next;
		} while (after);
		expect(rows.map(said).sort()).toEqual(walked(events));
		expect(rows.length).toBeGreaterThan(0);
	});

	it('is the same as a list', async () => {
		const view = readView(pairingList, new URLSearchParams('size=200'));
		const { count } = await listPage(db.sql, pairingList, view, { today: '2026-03-01', login: 'ines' });
		expect(count).toBe(walked(events).length);
	});
});

describe('what is in what, of more than is counted', () => {
	const db = testDatabase();
	it('says so as soon as the uses alone are more, and counts each of what was made when it is asked', async () => {
		await makeItems(db.sql);
		const uses = MOST_COUNTED - 20;
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: [{ item: 'GEL', lot: 'G-1', qty: '30000', from: '@supplier', to: 'QS/A1' }]
		});
		const run = (code: string, times: number, made: string[]) =>
			bookTest(db.sql, {
				kind: 'output',
				runs: [{ code }],
				movements: [
					...Array.from({ length: times }, () => ({
						...{ item: 'GEL', lot: 'G-1', qty: '1', from: 'QS/A1', to: '@process' },
						...{ run: code, role: 'use' as const }
					})),
					...made.map((lot) => ({
						...{ item: 'PACK', lot, qty: '1', from: '@process', to: 'QS/A1' },
						...{ run: code, role: 'make' as const }
					}))
				]
			});
		const view = readView(pairingList, new URLSearchParams());
		const counted = async () => {
			const page = await listPage(db.sql, pairingList, view, { today: '2026-03-01', login: 'ines' });
			return [page.count, page.more, await countAll(db.sql, pairingList, view, '2026-03-01')];
		};
		await run('R-1', uses, ['P-1']);
		expect(await counted()).toEqual([uses, false, uses]);
		// Fewer uses than are counted, more of what they went into.
		await run('R-2', 11, ['P-2', 'P-3']);
		expect(await counted()).toEqual([MOST_COUNTED, true, uses + 22]);
		await run('R-3', 10, ['P-4', 'P-5']);
		expect(await counted()).toEqual([MOST_COUNTED, true, uses + 42]);
	});
});

describe('what is in what', () => {
	const db = testDatabase();
	const ask = async (asked: PairingsAsked) => (await findPairings(db.sql, asked, undefined, 100)).rows;
	const listed = async (q: string) =>
		(
			await listPage(db.sql, pairingList, readView(pairingList, new URLSearchParams(q)), {
				today: '2026-03-01',
				login: 'ines'
			})
		).rows;

	it('is asked by order, by what was made and by part, and says who, how and what was taken out again', async () => {
		await makeItems(db.sql);
		await db.owner`INSERT INTO orders (code, kind, created_by) VALUES ('MO-1', 'production', 'ines')`;
		const [{ id: order }] = await db.owner<{ id: string }[]>`SELECT id FROM orders WHERE code = 'MO-1'`;
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: [
				{ item: 'GEL', lot: 'G-1', qty: '10', from: '@supplier', to: 'QS/A1' },
				{ item: 'CELL', lot: 'C-1', serial: 'C-1-1', qty: 1, from: '@supplier', to: 'QS/A1' },
				{ item: 'CELL', lot: 'C-1', serial: 'C-1-2', qty: 1, from: '@supplier', to: 'QS/A1' }
			]
		});
		const use = { from: 'QS/A1', to: '@process', role: 'use' } as const;
		await book(db.sql, ines, {
			...{ key: 'build', kind: 'output', at: '2026-03-02T08:00:00Z', order },
			runs: [{ code: 'R-1', unit: { item: 'METER', serial: 'M-1' } }],
			movements: [
				{ ...use, item: 'CELL', serial: 'C-1-1', qty: 1, run: 'R-1', evidence: 'scanned' },
				{ ...use, item: 'GEL', lot: 'G-1', qty: '0.5', run: 'R-1' },
				{ item: 'METER', serial: 'M-1', qty: 1, from: '@process', to: 'QS/A1', run: 'R-1', role: 'make' }
			]
		});
		await bookTest(db.sql, {
			kind: 'use',
			runs: [{ code: 'R-2', unit: { item: 'METER', serial: 'M-2' } }],
			movements: [{ ...use, item: 'CELL', serial: 'C-1-2', qty: 1, run: 'R-2' }]
		});
		const first: Pairing = {
			...{
				order: 'MO-1',
				item: 'METER',
				serial: 'M-1',
				lot: null,
				partItem: 'CELL',
				partLot: 'C-1',
				partSerial: 'C-1-1'
			},
			...{ qty: '1', evidence: 'scanned', by: 'ines', at: '2026-03-02T08:00:00Z', formerly: false }
		};
		const gel = { ...first, partItem: 'GEL', partLot: 'G-1', partSerial: null, qty: '0.5', evidence: 'entered' };
		expect(await ask({ order: 'MO-1' })).toEqual([first, gel]);
		expect(await ask({ item: 'METER', serial: 'M-1' })).toEqual([first, gel]);
		expect(await ask({ partItem: 'GEL', partLot: 'G-1' })).toEqual([gel]);
		// A lot means its serials too.
		expect((await ask({ partItem: 'CELL', partLot: 'C-1' })).map((r) => r.partSerial)).toEqual(['C-1-1', 'C-1-2']);
		expect((await ask({ partSerial: 'C-1-2' })).map((r) => [r.serial, r.order])).toEqual([['M-2', null]]);
		for (const none of [
			{ order: 'MO-9' },
			{ item: 'METER', serial: 'M-9' },
			{ partItem: 'CAP' },
			{ order: 'MO-1', partLot: 'X' }
		])
			expect(await ask(none), JSON.stringify(none)).toEqual([]);

		const found = async (text: string) =>
			(await listed(`find=${text}`)).map((r) => `${r.partNumber} in ${r.number}`).sort();
		expect(await found('m-1')).toEqual(['C-1-1 in M-1', 'G-1 in M-1']);
		expect(await found('G-1')).toEqual(['G-1 in M-1']);
		expect(await found('mo-1')).toEqual(['C-1-1 in M-1', 'G-1 in M-1']);
		expect(await listed('find=nothing like it')).toEqual([]);

		// Taken out again: it stands, and says so.
		await bookTest(db.sql, {
			kind: 'service',
			movements: [{ item: 'CELL', serial: 'C-1-1', qty: 1, from: '@process', to: 'QS/A1', run: 'R-1', role: 'detach' }]
		});
		expect((await ask({ partSerial: 'C-1-1' }))[0]).toEqual({ ...first, formerly: true });
		expect((await listed('state=out')).map((r) => r.partNumber)).toEqual(['C-1-1']);
	});
});
