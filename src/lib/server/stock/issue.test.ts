import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { findingsOf, bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { historyOfAll } from '../history/history.ts';
import { book } from '../ledger/book.ts';
import { addJob, listJobs, setJobClosed } from '../setup/jobs.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { saveRows } from '../sheet/drafts.ts';
import { undoScan } from '../sheet/scan.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { forwardAnswer } from '../../../../tests/traced.ts';
import { takeScan } from '../../../../tests/db/sheets.ts';

const db = testDatabase();
async function issue(lines: { item: string; qty: string }[], job = 'HARBOUR') {
	const code = await createDocument(db.sql, 'ines', { kind: 'issue', job, place: 'QS', lines });
	return (await getOrder(db.sql, code))!;
}
const scan = async (code: string, text: string) =>
	takeScan(db.sql, 'ines', (await getOrder(db.sql, code))!, { id: randomUUID(), text });
const bookNow = async (code: string, reason?: string) =>
	bookSheet(db.sql, ines, code, { key: randomUUID(), stamp: (await sheetState(db.sql, code)).stamp, reason });
const picks = async (code: string, line = 0) =>
	(await sheetState(db.sql, code)).lines[line].cells.flatMap((c) =>
		c.picks.map((p) => [p.number, p.place, p.qty, !!p.id])
	);

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/A2', 'HH', 'HH/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'HARB', name: 'Harbour board', kind: 'customer' });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	await addJob(db.sql, 'ines', { code: 'HARBOUR', name: 'Harbour lights', kind: 'project', partner: 'HARB' });
	await addJob(db.sql, 'ines', { code: 'LAB', name: 'Laboratory', kind: 'department' });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			{ item: 'GEL', lot: 'G-1', qty: '6', from: '@supplier', to: 'QS/A1' },
			{ item: 'GEL', lot: 'G-2', qty: '20', from: '@supplier', to: 'QS/A2' },
			{ item: 'GEL', lot: 'G-FAR', qty: '20', from: '@supplier', to: 'HH/A1' },
			...['C-1', 'C-2', 'C-3'].map((serial) => ({ item: 'CELL', serial, qty: '1', from: '@supplier', to: 'QS/A1' }))
		]
	});
});

describe('an issue to a job', () => {
	it('suggests what is at hand at its site, books it to the job, and a forward trace ends there with the customer', async () => {
		const { code } = await issue([{ item: 'GEL', qty: '8' }]);
		expect(await picks(code)).toEqual([
			['G-1', 'QS/A1', '6', false],
			['G-2', 'QS/A2', '2', false]
		]);
		await bookNow(code);
		expect((await getOrder(db.sql, code))!.closedAt).not.toBeNull();
		const trace = (await forwardAnswer(db.sql, { item: 'GEL', lot: 'G-1', serial: null }, {}))!;
		expect(trace.where).toMatchObject([{ state: 'issued', at: 'HARBOUR', customer: 'HARB', content: '6' }]);
	});
	it('takes what is scanned, once, and says where a scan goes and why one is not taken', async () => {
		const { code } = await issue([
			{ item: 'GEL', qty: '5' },
			{ item: 'CELL', qty: '2' }
		]);
		expect(await scan(code, 'C-3')).toMatchObject({
			taken: true,
			said: expect.stringContaining('Serial C-3 from QS/A1')
		});
		expect(await scan(code, 'C-3')).toMatchObject({
			taken: false,
			said: 'C-3 is in this sheet already. Change its quantity there, if more of it goes.'
		});
		expect(await scan(code, 'G-FAR')).toMatchObject({
			taken: false,
			said: expect.stringContaining('G-FAR is at HH/A1, and JI-')
		});
		expect(await scan(code, 'G-2')).toMatchObject({ taken: true, said: expect.stringContaining('Lot G-2 from QS/A2') });
		expect(await picks(code, 1)).toContainEqual(['C-3', 'QS/A1', '1', true]);
		expect(await picks(code, 0)).toEqual([['G-2', 'QS/A2', '5', true]]);
		await bookNow(code);
		const left =
			await db.sql`SELECT 1 FROM balance b JOIN mark k ON k.id = b.mark_id AND k.number = 'C-3' WHERE NOT b.virtual AND b.qty > 0`;
		expect(left).toHaveLength(0);
	});
	it('a scan can be taken back', async () => {
		const order = await issue([{ item: 'GEL', qty: '1' }]);
		const id = randomUUID();
		await takeScan(db.sql, 'ines', order, { id, text: 'G-2' });
		await undoScan(db.sql, 'ines', order, id);
		expect((await picks(order.code)).filter(([, , , kept]) => kept)).toEqual([]);
	});
	it('more than asked for wants a reason; a held lot stays', async () => {
		const order = await issue([{ item: 'GEL', qty: '1' }]);
		const [{ id: mark }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'G-2'`;
		await saveRows(db.sql, 'ines', order, [
			{ id: randomUUID(), lineId: order.lines[0].id, version: 0, data: { mark, place: 'QS/A2', qty: '3' } }
		]);
		expect((await sheetState(db.sql, order.code)).missing).toMatchObject([
			{ code: 'more than ordered', level: 'reason', message: expect.stringContaining('3 are issued, 1 are asked for') }
		]);
		await expect(bookNow(order.code)).rejects.toThrow('say why');
		await bookNow(order.code, 'for the second mast');
	});
	it('a program issues with the same checks: the job is needed, known and open', async () => {
		const event = (key: string, job?: string) =>
			book(
				db.sql,
				{ ...ines, source: 'api' },
				{
					key,
					kind: 'issue',
					at: '2026-03-02T08:00:00Z',
					job,
					movements: [{ item: 'GEL', lot: 'G-2', qty: '1', from: 'QS/A2', to: '@job' }]
				}
			);
		await expect(event('no-job')).rejects.toMatchObject({ faults: [{ code: 'job missing' }] });
		await expect(event('other-job', 'NONE')).rejects.toMatchObject({ faults: [{ code: 'no such name' }] });
		await setJobClosed(db.sql, 'ines', 'LAB', true);
		await expect(event('shut-job', 'LAB')).rejects.toMatchObject({ faults: [{ code: 'closed job' }] });
		await setJobClosed(db.sql, 'ines', 'LAB', false);
		await event('lab-1', 'LAB');
		const trace = (await forwardAnswer(db.sql, { item: 'GEL', lot: 'G-2', serial: null }, {}))!;
		expect(trace.where).toContainEqual(
			expect.objectContaining({ state: 'issued', at: 'LAB', customer: null, content: '1' })
		);
	});
	it('jobs keep who made, closed and opened them; a project names its customer', async () => {
		await expect(addJob(db.sql, 'ines', { code: 'X', name: 'X', kind: 'project' })).rejects.toThrow(
			'choose the customer'
		);
		await expect(addJob(db.sql, 'ines', { code: 'LAB', name: 'X', kind: 'own use' })).rejects.toThrow(
			'There is a job LAB already'
		);
		expect((await listJobs(db.sql)).find((j) => j.code === 'HARBOUR')).toMatchObject({
			partnerName: 'Harbour board',
			issues: 3
		});
		const history = (await historyOfAll(db.sql, 'job')).filter((h) => h.code === 'LAB');
		expect(history.filter((h) => h.field === 'closed').map((h) => [h.by, h.old, h.new])).toEqual([
			['ines', 'true', 'false'],
			['ines', 'false', 'true'],
			['ines', null, 'false']
		]);
	});
	it('leaves the ledger whole', async () => expect(await findingsOf(db.sql)).toEqual([]));
});
