import { beforeAll, describe, expect, it } from 'vitest';
import { Problem } from '../../src/lib/core/problem/problem.ts';
import { connect, type Sql, type Tx } from '../../src/lib/server/database/connect.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { appendChanges, setStatus } from '../../src/lib/server/ledger/changes.ts';
import { keepSealing } from '../../src/lib/server/ledger/seal.ts';
import { createItem } from '../../src/lib/server/setup/items.ts';
import { brokenInvariants } from './checker.ts';
import { bookTest, findingsOf, ines, makeItems, testDatabase } from './cluster.ts';

const db = testDatabase();
let keys = 0;
const move = (lot: string, from = 'QS/A1', to = 'QS/A2', qty = '1') => ({
	key: `side-${keys++}`,
	kind: 'move',
	at: '2026-03-02T08:00:00Z',
	movements: [{ item: 'RAW1', lot, qty, from, to }]
});
const receive = (lot: string, qty = '10') =>
	bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [{ item: 'RAW1', lot, qty, from: '@supplier', to: 'QS/A1' }]
	});
const markOf = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;

/** Runs some work while somebody else holds something, who lets go when told. */
async function whileHeld<T>(hold: (tx: Tx) => Promise<unknown>, work: (letGo: () => void) => Promise<T>): Promise<T> {
	let letGo = () => {};
	const released = new Promise<void>((done) => (letGo = done));
	let held = () => {};
	const holds = new Promise<void>((done) => (held = done));
	const holder = db.owner.begin(async (tx) => {
		await hold(tx);
		held();
		await released;
	});
	await holds;
	try {
		return await work(letGo);
	} finally {
		letGo();
		await holder;
	}
}
/** Has the work ended once nothing but a lock can be what it waits for? */
async function waits(work: Promise<unknown>): Promise<boolean> {
	let ended = false;
	const end = () => (ended = true);
	work.then(end, end);
	for (let i = 0; i < 400 && !ended; i++) {
		const [{ n }] = await db.owner<{ n: number }[]>`
			SELECT count(*)::int AS n FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock'`;
		if (n) return true;
		await new Promise((done) => setTimeout(done, 5));
	}
	return false;
}

beforeAll(async () => {
	await makeItems(db.sql);
	for (const lot of ['SIDE-A', 'SIDE-B', 'SIDE-C']) await receive(lot);
	await bookTest(db.sql, { ...move('SIDE-A'), partner: 'C1' });
});

describe('two bookings wait for each other only when they touch the same', () => {
	const balanceOf = (lot: string) => (tx: Tx) =>
		tx`SELECT FROM balance b JOIN mark k ON k.id = b.mark_id WHERE k.number = ${lot} FOR UPDATE OF b`;
	it('another lot goes on, the same lot waits', () =>
		whileHeld(balanceOf('SIDE-A'), async (letGo) => {
			await book(db.sql, ines, move('SIDE-B'));
			const same = book(db.sql, ines, move('SIDE-A'));
			expect(await waits(same)).toBe(true);
			letGo();
			expect((await same).movements).toBe(1);
		}));
	it('new numbers go on beside it, and holding another lot too', () =>
		whileHeld(balanceOf('SIDE-A'), async () => {
			await receive('SIDE-NEW');
			await setStatus(db.sql, ines, { key: 'side-hold', act: 'hold', mark: await markOf('SIDE-C'), reason: 'to look' });
			await setStatus(db.sql, ines, { key: 'side-free', act: 'release', mark: await markOf('SIDE-C'), reason: 'fine' });
		}));
	it('eight that make places and partners of their own at once all get through', async () => {
		const made = await Promise.all(
			Array.from({ length: 8 }, (_, i) =>
				book(
					db.sql,
					ines,
					{ ...move('SIDE-B', 'QS/A1', `QS/NEW${i % 4}`, '0.001'), partner: `NEW-${i % 3}` },
					{ create: { places: true, partners: true } }
				)
			)
		);
		expect(made.map((m) => m.movements)).toEqual(Array(8).fill(1));
	});
	it('the same key waits for the first, and gets its result', () => {
		const event = move('SIDE-B');
		return whileHeld(
			(tx) => tx`SELECT pg_advisory_xact_lock(hashtextextended(${event.key}, 9))`,
			async (letGo) => {
				const both = [book(db.sql, ines, event), book(db.sql, ines, event)];
				expect(await waits(both[0])).toBe(true);
				letGo();
				const done = await Promise.all(both);
				expect(new Set(done.map((d) => d.id)).size).toBe(1);
				expect(done.map((d) => d.again).sort()).toEqual([false, true]);
			}
		);
	});
});

describe('what was checked is still so when it is written', () => {
	/** Books while something it rests on is about to change, which it has read before. */
	const overtaken = async (change: (tx: Tx) => Promise<unknown>, event: ReturnType<typeof move>) => {
		await book(db.sql, ines, move('SIDE-B', 'QS/A1', 'QS/A2', '0.001'));
		return whileHeld(change, async (letGo) => {
			const booking = book(db.sql, ines, event).then(
				() => 'booked',
				(e: unknown) => (e instanceof Problem ? e.message : String(e))
			);
			expect(await waits(booking)).toBe(true);
			letGo();
			return booking;
		});
	};
	it('a rule that asks more', async () => {
		await createItem(db.sql, 'ines', { code: 'LOOSE', name: 'Loose', unit: 'kg', decimals: 3, tracking: 'lot' });
		const step = (how: string) => (tx: Tx) =>
			tx`UPDATE marking_rule SET lot = ${how}, since = now() WHERE step = 'receipt' AND item_id = (SELECT id FROM item WHERE code = 'LOOSE')`;
		await step('not asked')(db.owner as never);
		const arrive = (): ReturnType<typeof move> => ({
			...move('x'),
			kind: 'receipt',
			movements: [{ item: 'LOOSE', qty: '1', from: '@supplier', to: 'QS/A1' } as never]
		});
		await bookTest(db.sql, arrive());
		await book(db.sql, ines, arrive());
		expect(await overtaken(step('required'), arrive())).toContain('LOOSE needs a lot at receipt');
		expect(await findingsOf(db.sql)).toEqual([]);
	});
	it('a lot that is put on hold', async () => {
		await receive('SIDE-D');
		const id = await markOf('SIDE-D');
		const ship = { ...move('SIDE-D', 'QS/A1', '@customer'), kind: 'shipment' };
		const hold = async (tx: Tx) => {
			await tx`SELECT lock_marks(${[id]}::bigint[], NULL, true)`;
			await tx`SELECT change_marks(900000, ${JSON.stringify([{ mark: id, field: 'status', value: 'held' }])}::text::jsonb)`;
			await tx`SELECT close_event(900000, ${JSON.stringify({ key: 'held-meanwhile', kind: 'hold', at: '2026-03-02T08:00:00Z', by: 'oskar', source: 'screen', reason: 'wet' })}::text::jsonb)`;
		};
		expect(await overtaken(hold, ship)).toContain('Lot SIDE-D is on hold and stays here.');
	});
	it('a lot whose number is corrected: what is booked after it carries the new one', async () => {
		await receive('SIDE-E');
		const id = await markOf('SIDE-E');
		await appendChanges(db.sql, ines, { key: 'corrected', kind: 'correct', reason: 'misread' }, [id], async () => [
			{ mark: id, field: 'lot_no', value: 'SIDE-F' }
		]);
		await expect(book(db.sql, ines, move('SIDE-E'))).rejects.toThrow('SIDE-E');
		await book(db.sql, ines, move('SIDE-F'));
		expect(await findingsOf(db.sql)).toEqual([]);
	});
	it('two numbers that look the same and are made at once: the second is asked about', async () => {
		const arrive = (lot: string) =>
			book(db.sql, ines, {
				...move(lot, '@supplier', 'QS/A1'),
				kind: 'receipt',
				partner: 'S1'
			});
		const said = await Promise.allSettled(['SIDE-O1', 'SIDE-01', 'SIDE-0I'].map(arrive));
		expect(said.filter((s) => s.status === 'fulfilled')).toHaveLength(1);
		for (const s of said)
			if (s.status === 'rejected') expect((s.reason as Problem).message).toMatch(/looks like SIDE-[O0][1I]/);
	});
});

it('a unit that its run brings, with the number of another item’s piece, is told apart from it', async () => {
	const unit = (item: string) => ({
		kind: 'use',
		partner: null,
		runs: [{ code: `side-unit-${item}`, unit: { item, serial: 'SAME-1' } }],
		movements: [
			{
				item: 'RAW1',
				lot: 'SIDE-B',
				qty: '0.1',
				from: 'QS/A1',
				to: '@process',
				run: `side-unit-${item}`,
				role: 'use' as const
			}
		]
	});
	await bookTest(db.sql, unit('METER'));
	await bookTest(db.sql, unit('KIT'));
	expect(await db.sql`SELECT lookalike FROM mark WHERE number = 'SAME-1' ORDER BY lookalike`).toEqual([
		{ lookalike: 0 },
		{ lookalike: 1 }
	]);
});

describe('a deadlock', () => {
	it('never reaches a person: it is tried again', async () => {
		await receive('DEAD-1');
		await receive('DEAD-2');
		const [one, two] = [await markOf('DEAD-1'), await markOf('DEAD-2')];
		// Somebody who takes the same balances the other way round, past the door.
		const other = db.owner.begin(async (tx) => {
			await tx`SELECT FROM balance WHERE mark_id = ${two} ORDER BY place_id FOR UPDATE`;
			await tx`SELECT pg_sleep(0.3)`;
			await tx`SELECT FROM balance WHERE mark_id = ${one} ORDER BY place_id FOR UPDATE`;
		});
		const event = move('DEAD-1');
		event.movements.push(...move('DEAD-2').movements);
		const [booked] = await Promise.all([book(db.sql, ines, event), other.catch((e: { code?: string }) => e.code)]);
		expect(booked.movements).toBe(2);
	});
});

describe('fifty at once on scarce lots and serials', () => {
	it('take no more than there is, no serial twice, and are told in words', async () => {
		const rounds = Number(process.env.EARMARK_STORM ?? 1500);
		const lots = Array.from({ length: 20 }, (_, i) => `SCARCE-${i}`);
		const serials = Array.from({ length: 20 }, (_, i) => `ONE-${i}`);
		for (const lot of lots) await receive(lot, '30');
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: serials.map((serial) => ({ item: 'METER', serial, qty: '1', from: '@supplier', to: 'QS/A1' }))
		});
		const pool: Sql = connect(db.url, 'app', 16);
		const stop = keepSealing(() => pool);
		const pick = <T>(list: readonly T[]) => list[Math.floor(Math.random() * list.length)];
		const places = ['QS/A1', 'QS/A2', '@customer'];
		const answers: Record<string, number> = {};
		let left = rounds;
		await Promise.all(
			Array.from({ length: 50 }, async () => {
				while (left-- > 0) {
					const [from, to] = [pick(places), pick(places)];
					const what =
						Math.random() < 0.5 ? { item: 'RAW1', lot: pick(lots) } : { item: 'METER', serial: pick(serials) };
					const kind = to === '@customer' ? 'shipment' : from === '@customer' ? 'return' : 'move';
					await book(pool, ines, {
						...{ key: `storm-${keys++}`, kind, at: '2026-03-05T08:00:00Z', partner: 'C1' },
						movements: [{ ...what, qty: 'lot' in what ? '7' : '1', from, to }]
					}).then(
						() => (answers.booked = (answers.booked ?? 0) + 1),
						(e: unknown) => {
							if (!(e instanceof Problem)) throw e;
							answers[e.status] = (answers[e.status] ?? 0) + 1;
						}
					);
				}
			})
		);
		await stop();
		await pool.end();
		expect(Object.keys(answers).sort()).toEqual(['422', 'booked']);
		expect(answers.booked).toBeGreaterThan(50);
		expect(await brokenInvariants(db.owner)).toEqual([]);
		expect(await findingsOf(db.sql)).toEqual([]);
	}, 900_000);
});
