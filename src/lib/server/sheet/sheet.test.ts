import { randomUUID } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { findingsOf, bookTest, ines, makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { Mode } from '../../core/sheet/sheet.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { forwardAnswer } from '../../../../tests/traced.ts';
import { connect } from '../database/connect.ts';
import { appendChanges } from '../ledger/changes.ts';
import { createDocument } from '../document/create.ts';
import { saveRows, type RowData } from './drafts.ts';
import { getOrder } from '../document/orders.ts';
import { bookSheet, sheetState } from './state.ts';
import { undoEvent } from '../document/undo.ts';

const db = testDatabase();
const type = async (code: string, no: number, data: RowData) => {
	const order = (await getOrder(db.sql, code))!;
	await saveRows(db.sql, 'ines', order, [{ id: randomUUID(), lineId: order.lines[no - 1].id, version: 0, data }]);
};
const bookNow = async (code: string, mode: Mode = 'both', reason?: string) =>
	bookSheet(db.sql, ines, code, {
		key: randomUUID(),
		stamp: (await sheetState(db.sql, code, mode)).stamp,
		mode,
		reason
	});

describe('a sheet', () => {
	it('is set up', async () => {
		await makeItems(db.sql, [
			{ code: 'RAW1', name: 'Raw', unit: 'kg', decimals: 3, tracking: 'lot', expiry: 'asked' },
			{
				code: 'BULK1',
				name: 'Bulk',
				unit: 'kg',
				decimals: 3,
				tracking: 'lot',
				expiry: 'asked',
				shelfLife: 'P12M',
				parts: [{ item: 'RAW1', qty: '0.5' }]
			}
		]);
		for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
		await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
		for (const [lot, expiresOn] of [
			['L-LATE', '2199-01-01'],
			['L-SOON', '2198-01-01']
		])
			await bookTest(db.sql, {
				kind: 'receipt',
				partner: 'S1',
				movements: [{ item: 'RAW1', lot, qty: 3, from: '@supplier', to: 'QS/A1', expiresOn }]
			});
		await createDocument(db.sql, 'ines', {
			code: 'MO-1',
			kind: 'production',
			place: 'QS/A1',
			lines: [{ item: 'BULK1', qty: '10' }]
		});
	});

	it('use now, output later: the run holds the rest as in process, spread by the plan', async () => {
		const sheet = await sheetState(db.sql, 'MO-1', 'use');
		expect(sheet.lines[1].cells[0].picks.map((p) => `${p.number} ${p.qty}`)).toEqual(['L-SOON 3', 'L-LATE 2']);
		await bookNow('MO-1', 'use');
		const traceOf = async () =>
			(await forwardAnswer(db.sql, { item: 'RAW1', lot: 'L-SOON' }, {}))!.where
				.map((w) => `${w.state} ${w.content}`)
				.sort();
		expect(await traceOf()).toEqual(['in process 3']);
		await type('MO-1', 1, { lot: 'B-1', qty: '4' });
		await bookNow('MO-1', 'output');
		expect(await traceOf()).toEqual(['in process 9/5', 'on hand 6/5']);
		expect((await getOrder(db.sql, 'MO-1'))!.closedAt).toBeNull();
		await type('MO-1', 1, { lot: 'B-2', qty: '6' });
		await bookNow('MO-1', 'output');
		expect(await traceOf()).toEqual(['on hand 6/5', 'on hand 9/5']);
		expect((await getOrder(db.sql, 'MO-1'))!.closedAt).not.toBeNull();
	});

	it('an undo of the last output opens the order again', async () => {
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT max(id) AS id FROM event`;
		const order = (await getOrder(db.sql, 'MO-1'))!;
		await undoEvent(db.sql, ines, { undo: id, key: randomUUID(), reason: 'wrong tank' }, order);
		const again = (await getOrder(db.sql, 'MO-1'))!;
		expect([again.closedAt, again.lines[0].done]).toEqual([null, '4']);
		await expect(
			undoEvent(db.sql, ines, { undo: id, key: randomUUID(), reason: 'x' }, { id: '0', code: 'X' })
		).rejects.toThrow(Problem);
	});

	it('what another order’s sheet holds by hand is not suggested twice', async () => {
		for (const code of ['SO-1', 'SO-2'])
			await createDocument(db.sql, 'ines', {
				code,
				kind: 'sale',
				partner: 'C1',
				place: 'QS',
				lines: [{ item: 'BULK1', qty: '3' }]
			});
		const [pick] = (await sheetState(db.sql, 'SO-1')).lines[0].cells[0].picks;
		await type('SO-1', 1, { mark: pick.mark, place: pick.place, qty: '3' });
		const other = (await sheetState(db.sql, 'SO-2')).lines[0];
		expect([other.cells[0].picks.map((p) => p.qty), other.cells[0].short]).toEqual([['1'], '2']);
	});

	it('books what was seen: a sheet that changed since is refused, the same press twice books once', async () => {
		const seen = await sheetState(db.sql, 'SO-1');
		const [pick] = seen.lines[0].cells[0].picks;
		const order = (await getOrder(db.sql, 'SO-1'))!;
		await saveRows(db.sql, 'ines', order, [
			{
				id: pick.id,
				version: pick.version,
				lineId: order.lines[0].id,
				data: { mark: pick.mark, place: pick.place, qty: '2' }
			}
		]);
		// An older version of the same row is not saved over it.
		await expect(
			saveRows(db.sql, 'tobi', order, [
				{
					id: pick.id,
					version: pick.version,
					lineId: order.lines[0].id,
					data: { mark: pick.mark, place: pick.place, qty: '1' }
				}
			])
		).rejects.toThrow('ines changed this row');
		const press = { key: randomUUID(), stamp: seen.stamp };
		await expect(bookSheet(db.sql, ines, 'SO-1', press)).rejects.toThrow('The sheet changed while you looked at it.');
		const now = { ...press, stamp: (await sheetState(db.sql, 'SO-1')).stamp, reason: 'rounded up' };
		const first = await bookSheet(db.sql, ines, 'SO-1', now);
		const second = await bookSheet(db.sql, ines, 'SO-1', now);
		expect([first.id, first.again, second.id, second.again]).toEqual([first.id, false, first.id, true]);
		await expect(
			bookSheet(db.sql, { ...ines, role: 'auditor' }, 'SO-2', { ...now, key: randomUUID() })
		).rejects.toThrow('Only a coordinator or receiving and shipping can book outbound.');
	});

	it('two who press at once: one books, the other is told', async () => {
		await createDocument(db.sql, 'ines', {
			code: 'SO-3',
			kind: 'sale',
			partner: 'C1',
			place: 'QS',
			lines: [{ item: 'BULK1', qty: '1' }]
		});
		const { stamp } = await sheetState(db.sql, 'SO-3');
		const both = await Promise.allSettled(
			[0, 1].map(() => bookSheet(db.sql, ines, 'SO-3', { key: randomUUID(), stamp }))
		);
		expect(both.map((b) => b.status).sort()).toEqual(['fulfilled', 'rejected']);
		expect(await findingsOf(db.sql)).toEqual([]);
	});

	it('what is picked stays what it is when its number is corrected before it goes', async () => {
		const [code, item, lot] = ['SO-4', 'RAW1', 'L-LATE'];
		const lines = [{ item, qty: '1' }];
		await createDocument(db.sql, 'ines', { code, kind: 'sale', partner: 'C1', place: 'QS', lines });
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${lot}`;
		await type(code, 1, { mark: id, place: 'QS/A1', qty: '1' });
		const correct = (key: string, value: string) =>
			appendChanges(db.sql, ines, { key, kind: 'correct', reason: 'misread label' }, [id], async () => [
				{ mark: id, field: 'lot_no', value }
			]);
		await correct('misread', 'L-LATER');
		// Another lot takes the number that was printed on it: the pick is not it.
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: [{ item, lot, qty: 3, from: '@supplier', to: 'QS/A1', expiresOn: '2198-01-01' }]
		});
		const [pick] = (await sheetState(db.sql, code)).lines[0].cells[0].picks;
		expect([pick.mark, pick.number, pick.findings]).toEqual([id, 'L-LATER', []]);
		const { id: event } = await bookNow(code);
		const went = await db.sql<{ mark: string }[]>`SELECT mark_id AS mark FROM movement WHERE event_id = ${event}`;
		expect(went).toMatchObject([{ mark: id }]);
		const found = await db.sql<{ mark: string }[]>`SELECT mark_id AS mark FROM mark_alias WHERE number = ${lot}`;
		expect(found, 'the number that was corrected still finds it').toMatchObject([{ mark: id }]);
	});

	it('takes as many statements for 200 lines and 2,000 serials as for one of each', async () => {
		const made = async (code: string, lines: number, serials: number) => {
			for (const [kind, item] of [
				['purchase', 'PIECE'],
				['sale', 'PLENTY']
			] as const)
				await createDocument(db.sql, 'ines', {
					code: `${kind}-${code}`,
					kind,
					partner: kind === 'sale' ? 'C1' : 'S1',
					place: kind === 'sale' ? 'QS' : 'QS/A1',
					lines: Array.from({ length: lines }, () => ({ item, qty: '10' }))
				});
			const order = (await getOrder(db.sql, `purchase-${code}`))!;
			const rows = order.lines.map((l, i) => ({
				id: randomUUID(),
				lineId: l.id,
				version: 0,
				data: { serial: `${code}-${i}-001`, count: serials / lines }
			}));
			await saveRows(db.sql, 'ines', order, rows);
		};
		const statements = async (code: string) => {
			let seen = 0;
			const sql = connect(db.url, 'app', 1, () => seen++);
			await sheetState(sql, code);
			await sql.end();
			return seen;
		};
		await makeItems(db.sql, [
			{ code: 'PIECE', name: 'Piece', unit: 'each', tracking: 'serial' },
			{ code: 'PLENTY', name: 'Plenty', unit: 'kg', decimals: 3, tracking: 'lot' }
		]);
		const arrived = { item: 'PLENTY', lot: 'P', qty: '9000', from: '@supplier', to: 'QS/A1' };
		await bookTest(db.sql, { kind: 'receipt', partner: 'S1', movements: [arrived] });
		await made('one', 1, 1);
		await made('many', 200, 2000);
		const counts = await Promise.all(
			['purchase-one', 'purchase-many', 'sale-one', 'sale-many', 'MO-1'].map(async (code) => [
				code,
				await statements(code)
			])
		);
		console.log(`the sheet of an order, statements: ${counts.map(([code, n]) => `${code} ${n}`).join(', ')}`);
		const [one, many, few, lots] = counts.map(([, n]) => n);
		expect([many, lots]).toEqual([one, few]);
	});
});
