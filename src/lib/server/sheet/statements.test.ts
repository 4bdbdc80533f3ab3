import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { bookTest, ines, makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import { connect, type Sql } from '../database/connect.ts';
import { createDocument } from '../document/create.ts';
import { book, checkNow, readEvent } from '../ledger/book.ts';
import { movedWords } from '../ledger/moved.ts';
import { binsOf } from '../setup/places.ts';
import { openWays } from '../setup/ways.ts';
import { besideSheet } from './beside.ts';
import { saveRows } from './drafts.ts';
import { scanInto } from './scan.ts';
import { bookSheet, findOpenOrder, sheetState } from './state.ts';

/*
 * How many statements each act on an order to ship takes, with its answer, as its route does them. What is set up is known in the
 * process, as it is after the first request.
 */
const db = testDatabase();
let sql: Sql;
let sent = 0;
let code = '';
beforeAll(async () => {
	await makeItems(db.sql);
	await db.owner`INSERT INTO partner (code, name, kind) VALUES ('C1', 'C1', 'customer')`;
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: ['M-1', 'M-2', 'M-3'].map((serial) => ({
			...{ item: 'METER', serial, qty: '1', from: '@supplier', to: 'QS/A1' }
		}))
	});
	code = await createDocument(db.sql, 'ines', {
		...{ kind: 'sale', partner: 'C1', place: 'QS', lines: [{ item: 'METER', qty: '1' }] }
	});
	sql = connect(db.url, 'app', 4, () => sent++);
	// Each connection asks once which types there are.
	await Promise.all([1, 2, 3, 4].map(() => sql`SELECT pg_sleep(0.2)`));
	await sheetState(sql, code);
});
afterAll(() => sql?.end());

async function statements<T>(act: string, most: number, work: () => Promise<T>): Promise<T> {
	sent = 0;
	const answer = await work();
	console.log(`${act}: ${sent} statements (${most})`);
	expect(sent, act).toBeLessThanOrEqual(most);
	return answer;
}

it('reads an order’s page', () =>
	statements('page', 18, () => Promise.all([sheetState(sql, code), openWays(sql), binsOf(sql, 'QS')])));

it('takes a scan, and answers with the sheet that it was checked in', async () => {
	const answer = await statements('scan', 20, async () => {
		const order = await findOpenOrder(sql, code);
		const { scan, sheet } = await scanInto(sql, 'ines', order, { id: randomUUID(), text: 'M-1' }, 'both');
		expect(scan).toMatchObject({ taken: true, said: 'Serial M-1 from QS/A1 into line 1, METER: 1 of 1' });
		return { ...sheet, ...(await besideSheet(sql, order)) };
	});
	expect(answer).toEqual(await sheetState(sql, code));
});

it('changes a row', async () => {
	const [{ id, version, mark }] = await db.sql<{ id: string; version: number; mark: string }[]>`
		SELECT id, version, data ->> 'mark' AS mark FROM draft_row`;
	await statements('change', 15, async () => {
		const order = await findOpenOrder(sql, code);
		const data = { mark, place: 'QS/A1', qty: '1', confirmed: true };
		await saveRows(sql, 'ines', order, [{ id, lineId: order.lines[0].id, version, data }]);
		return sheetState(sql, code, 'both', { order });
	});
});

it('books it', async () => {
	const { stamp } = await sheetState(db.sql, code);
	const after = await statements('booking', 25, async () => {
		const booked = await bookSheet(sql, ines, code, { key: randomUUID(), stamp });
		expect(await movedWords(sql, booked.id)).toBe('1 serial');
		return sheetState(sql, code);
	});
	expect(after).toMatchObject({ closedAt: expect.any(String), events: [{ kind: 'shipment' }] });
});

it('asks everything again where something changed since the checks', async () => {
	const event = {
		...{ key: randomUUID(), kind: 'move' as const, at: '2026-03-02T08:00:00Z' },
		movements: [{ item: 'METER', serial: 'M-2', qty: '1', from: 'QS/A1', to: 'QS', evidence: 'scanned' as const }]
	};
	const checked = await checkNow(sql, readEvent(event));
	await db.owner`UPDATE partner SET name = 'Another' WHERE code = 'C1'`;
	let tries = 0;
	const booked = await book(sql, ines, event, { checked, before: async () => void tries++ });
	expect([booked.movements, tries]).toEqual([1, 2]);
});
