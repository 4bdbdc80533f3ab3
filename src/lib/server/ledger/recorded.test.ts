import { beforeAll, expect, it } from 'vitest';
import { bookTest, findingsOf, testDatabase } from '../../../../tests/db/cluster.ts';
import { createItem } from '../setup/items.ts';
import { saveFact } from '../setup/facts.ts';

const db = testDatabase();
const recorded = async () =>
	(
		await db.sql<{ expires: string | null; theirs: string | null; made: string | null; facts: object }[]>`
			SELECT expires_on AS expires, supplier_lot AS theirs, made_on AS made, facts FROM mark WHERE lot_no = 'R-1'`
	)[0];
const arrive = (more: object = {}) =>
	bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [{ item: 'RAW', lot: 'R-1', qty: '1', from: '@supplier', to: 'QS', ...more }]
	});
beforeAll(async () => {
	await saveFact(db.sql, 'ines', { code: 'origin', name: 'Origin', kind: 'text', per: 'lot' });
	await createItem(db.sql, 'ines', { code: 'RAW', name: 'Raw', unit: 'kg', decimals: 3, tracking: 'lot' });
});

it('what is recorded of a lot stays as it is, whatever comes under its number later; it is corrected, never overwritten', async () => {
	const first = { expiresOn: '2031-01-31', supplierLot: 'THEIRS', madeOn: '2026-01-02', facts: { origin: 'Sken' } };
	await arrive(first);
	const was = await recorded();
	expect(was).toEqual({ expires: '2031-01-31', theirs: 'THEIRS', made: '2026-01-02', facts: { origin: 'Sken' } });
	await arrive();
	expect(await recorded()).toEqual(was);
	for (const other of [{ expiresOn: '2032-01-31' }, { supplierLot: 'OTHERS' }, { madeOn: '2026-01-03' }]) {
		const outcome = await arrive(other).then(
			() => 'booked',
			() => 'refused'
		);
		expect([other, outcome, await recorded()]).toEqual([other, outcome, was]);
	}
	// A detail may be said anew; what it was stands in its history.
	await arrive({ facts: { origin: 'Elsewhere' } });
	expect(await recorded()).toEqual({ ...was, facts: { origin: 'Elsewhere' } });
	const changes = await db.sql`SELECT old, new FROM mark_change WHERE field = 'facts' ORDER BY event_id`;
	expect(changes.map((c) => [JSON.parse(c.old), JSON.parse(c.new)])).toEqual([
		[{ origin: 'Sken' }, { origin: 'Elsewhere' }]
	]);
	expect(await findingsOf(db.sql)).toEqual([]);
});
