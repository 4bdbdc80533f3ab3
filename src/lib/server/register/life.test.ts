import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, ines, makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import { setStatus } from '../ledger/changes.ts';
import { addJob } from '../setup/jobs.ts';
import { addPartner } from '../setup/places.ts';
import { markPage } from './mark.ts';

const db = testDatabase();
const page = async (number: string) => {
	const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`;
	return (await markPage(db.sql, id))!;
};
/** The life of a number, first to last: what was done, to which pieces of it, and how much. */
const life = async (number: string) =>
	(await page(number)).life.map((e) => [e.did, e.pieces, e.qty].filter((x) => x !== null).join(' · '));

beforeAll(async () => {
	await makeItems(db.sql);
	await addPartner(db.sql, 'ines', { code: 'HARB', name: 'Harbour board', kind: 'customer' });
	await addJob(db.sql, 'ines', { code: 'LIGHTS', name: 'Harbour lights', kind: 'project', partner: 'HARB' });
	const cells = ['C-1', 'C-2', 'C-3', 'C-4', 'C-5', 'C-6'];
	const cell = (serial: string, from: string, to: string, more: object = {}) => ({
		...{ item: 'CELL', lot: 'C-LOT', serial, qty: 1, from, to },
		...more
	});
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			...cells.map((s) => cell(s, '@supplier', 'QS/A1')),
			{ item: 'RAW1', lot: 'R-1', qty: '10', from: '@supplier', to: 'QS/A1' }
		]
	});
	const units = ['M-1', 'M-2', 'M-3'];
	await bookTest(db.sql, {
		kind: 'output',
		at: '2026-03-02T08:00:00Z',
		runs: units.map((serial) => ({ code: `MO-1/${serial}`, unit: { item: 'METER', serial } })),
		movements: units.flatMap((serial, i) => [
			cell(cells[i], 'QS/A1', '@process', { run: `MO-1/${serial}`, role: 'use' }),
			{ item: 'METER', serial, qty: 1, from: '@process', to: 'QS/A1', run: `MO-1/${serial}`, role: 'make' as const }
		])
	});
	await bookTest(db.sql, {
		kind: 'output',
		at: '2026-03-03T08:00:00Z',
		runs: [{ code: 'MO-2' }],
		movements: [
			{ item: 'RAW1', lot: 'R-1', qty: '4', from: 'QS/A1', to: '@process', run: 'MO-2', role: 'use' },
			...['B-1', 'B-2'].map((lot) => ({
				...{ item: 'BULK1', lot, qty: '2', from: '@process', to: 'QS/A1' },
				...{ run: 'MO-2', role: 'make' as const }
			}))
		]
	});
	await bookTest(db.sql, {
		kind: 'use',
		at: '2026-03-04T08:00:00Z',
		runs: [{ code: 'MO-3' }],
		movements: [{ item: 'RAW1', lot: 'R-1', qty: '1', from: 'QS/A1', to: '@process', run: 'MO-3', role: 'use' }]
	});
	await bookTest(db.sql, {
		kind: 'issue',
		at: '2026-03-05T08:00:00Z',
		job: 'LIGHTS',
		movements: [cell('C-4', 'QS/A1', '@job')]
	});
	await bookTest(db.sql, {
		kind: 'shipment',
		at: '2026-03-06T08:00:00Z',
		partner: 'HARB',
		movements: ['M-1', 'M-3'].map((serial) => ({ item: 'METER', serial, qty: 1, from: 'QS/A1', to: '@customer' }))
	});
});

describe('a life', () => {
	it('of a lot whose pieces have serials is theirs, each act once, its pieces as ranges', async () => {
		expect(await life('C-LOT')).toEqual([
			'received from S1 · C-1 … C-6 · 6',
			'used for M-1 … M-3 · C-1 … C-3 · 3',
			'issued to Harbour lights · C-4 · 1'
		]);
		const lot = await page('C-LOT');
		expect(lot.where.map((w) => [w.place, w.qty, w.partner])).toEqual([
			['QS/A1', '2', null],
			['@job', '1', 'Harbour lights, for Harbour board'],
			['@process', '3', null]
		]);
		expect(lot.wentInto.links.map((l) => l.number)).toEqual(['M-1', 'M-2', 'M-3']);
	});
	it('of a component names what it was used for: the outputs of a pooled run, or the run while nothing came out', async () => {
		expect(await life('R-1')).toEqual(['received from S1 · 10', 'used for B-1 … B-2 · 4', 'used for run MO-3 · 1']);
		expect(await life('C-2')).toEqual(['received from S1 · 1', 'used for M-2 · 1']);
	});
	it('of what is made says in what, and where it went', async () => {
		expect(await life('M-1')).toEqual(['made in MO-1/M-1 · 1', 'shipped to Harbour board · 1']);
	});
	it('shows the status in force beside its own', async () => {
		const { id } = await page('C-LOT');
		await setStatus(db.sql, ines, { key: 'hold', act: 'hold', mark: id, reason: 'for the test' });
		expect(await page('C-5')).toMatchObject({ status: 'held', ownStatus: 'released' });
		expect((await life('C-LOT')).at(-1)).toBe('put on hold');
	});
});
