import { randomUUID } from 'node:crypto';
import { beforeAll, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { words } from '../../../../tests/pdf.ts';
import { Problem } from '../../core/problem/problem.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { makePromise } from '../document/promises.ts';
import { undoEvent } from '../document/undo.ts';
import { createItem } from '../setup/items.ts';
import { addJob } from '../setup/jobs.ts';
import { addPartner, addPlace, setPlaceUse } from '../setup/places.ts';
import { bookSheet, bookTogether, offerTogether, sheetState, sheetsTogether } from '../sheet/state.ts';
import { shippingPaper } from './packing.ts';
import { sign } from './signature.ts';

const db = testDatabase();
const sale = (item: string, qty: string, partner = 'C1', place = 'QS') =>
	createDocument(db.sql, 'ines', { kind: 'sale', partner, place, lines: [{ item, qty }] });
const order = async (code: string) => (await getOrder(db.sql, code))!;
const together = async (codes: string[], more: { reason?: string; key?: string; stamps?: string[] } = {}) => {
	const sheets = await sheetsTogether(db.sql, codes);
	const orders = sheets.map(({ code, stamp }, n) => ({ code, stamp: more.stamps?.[n] ?? stamp }));
	return bookTogether(db.sql, ines, { key: more.key ?? randomUUID(), orders, reason: more.reason });
};
const refused = async (act: Promise<unknown>) => {
	const e = await act.catch((error: unknown) => error);
	expect(e).toBeInstanceOf(Problem);
	return (e as Problem).faults.map((f) => f.message).join(' ');
};
const goes = async (codes: string[]) =>
	(await sheetsTogether(db.sql, codes)).map((s) =>
		s.lines.flatMap((l) => l.cells.flatMap((c) => c.picks.map((p) => p.number)))
	);

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'HH', 'HH/A1', 'HH/OUT']) await addPlace(db.sql, 'ines', { code, name: code });
	await setPlaceUse(db.sql, 'ines', 'HH/OUT', 'staging', true);
	for (const code of ['C1', 'C2'])
		await addPartner(db.sql, 'ines', { code, name: `Customer ${code}`, kind: 'customer' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			...Array.from({ length: 20 }, (_, i) => ({
				item: 'CELL',
				serial: `C-${i + 1}`,
				qty: '1',
				from: '@supplier',
				to: 'QS/A1'
			})),
			{ item: 'GEL', lot: 'G-1', qty: '10', from: '@supplier', to: 'QS/A1' },
			{ item: 'GEL', lot: 'G-H', qty: '10', from: '@supplier', to: 'HH/A1' }
		]
	});
});

it('goes as one event: none takes what the one before it takes, each is complete, one paper names them all', async () => {
	const [a, b] = [await sale('CELL', '2'), await sale('CELL', '1')];
	expect(await goes([a, b])).toEqual([['C-1', 'C-2'], ['C-3']]);
	const key = randomUUID();
	const { id } = await together([a, b], { key });
	expect((await together([a, b], { key }).catch((e: Problem) => e.message)) as string).toContain('key');
	for (const code of [a, b]) {
		expect((await order(code)).closedAt).not.toBeNull();
		expect((await sheetState(db.sql, code)).events.map((e) => e.id)).toEqual([id]);
		const text = await words((await shippingPaper(db.sql, 'ines', code, id, 'delivery note'))!);
		for (const says of [`Orders`, `${a}, ${b}`, 'C-1', 'C-3']) expect(text).toContain(says);
	}
	// Who takes it signs once, on the page of either.
	const drawn = [Array.from({ length: 20 }, (_, i) => ({ x: i * 10, y: (i % 2) * 40 }))];
	const signed = async (code: string) =>
		sign(db.sql, ines, await order(code), { meaning: 'receipt', event: id, signer: 'Ada Brook', strokes: drawn });
	await signed(b);
	expect(await refused(signed(a))).toContain('signed already');
	for (const code of [a, b])
		expect((await sheetState(db.sql, code)).sale!.signed).toMatchObject([{ event: id, signer: 'Ada Brook' }]);
	const [event] = await db.sql`SELECT document, kind FROM event WHERE id = ${id}`;
	expect(event).toEqual({ document: `${a}, ${b}`, kind: 'shipment' });
	// Undone on the page of either, both are open again.
	await undoEvent(db.sql, ines, { undo: id, key: randomUUID(), reason: 'the van broke down' }, await order(b));
	for (const code of [a, b]) {
		expect(await order(code)).toMatchObject({ closedAt: null, lines: [{ done: '0' }] });
		expect((await sheetState(db.sql, code)).events).toMatchObject([{ kind: 'undo' }, { undone: true }]);
	}
	// Again, each by itself: nothing of it stood in the way.
	await together([b]);
	expect((await order(b)).closedAt).not.toBeNull();
});

it('what is promised to each goes with it, and what is promised to somebody else stays', async () => {
	const [a, b, c] = [await sale('CELL', '1'), await sale('CELL', '1'), await sale('CELL', '1', 'C2')];
	for (const [code, serial] of [
		[a, 'C-11'],
		[b, 'C-12'],
		[c, 'C-13']
	])
		await makePromise(db.sql, ines, { key: randomUUID(), order: code, line: 1, item: 'CELL', serial, qty: '1' });
	expect(await goes([a, b])).toEqual([['C-11'], ['C-12']]);
	await together([a, b]);
	const left =
		await db.sql`SELECT n.order_code AS order FROM promise_now n JOIN mark k ON k.id = n.mark_id AND k.number IN ('C-11', 'C-12', 'C-13')`;
	expect(left).toEqual([{ order: c }]);
});

it('is refused whole: somebody else’s order, another site, one twice, one of which nothing can go, a sheet that changed', async () => {
	const a = await sale('CELL', '1');
	expect(await refused(together([a, await sale('CELL', '1', 'C2')]))).toContain('does not go with');
	const far = await sale('GEL', '1', 'C1', 'HH');
	await bookSheet(db.sql, ines, far, {
		key: randomUUID(),
		stamp: (await sheetState(db.sql, far, 'use')).stamp,
		mode: 'use'
	});
	expect(await refused(together([a, far]))).toContain('does not go with');
	const none = await sale('GEL', '1', 'C1', 'HH');
	expect(await refused(together([far, none]))).toBe(
		`Nothing of ${none} can go. Take it out, or look at its sheet for what is missing.`
	);
	expect(
		await refused(
			bookTogether(db.sql, ines, {
				key: 'k',
				orders: [
					{ code: a, stamp: 'x' },
					{ code: a, stamp: 'x' }
				]
			})
		)
	).toContain('stands here twice');
	await addJob(db.sql, 'ines', { code: 'LAB', name: 'Laboratory', kind: 'department' });
	const issues = [];
	for (let n = 0; n < 2; n++)
		issues.push(
			await createDocument(db.sql, 'ines', {
				kind: 'issue',
				job: 'LAB',
				place: 'QS',
				lines: [{ item: 'GEL', qty: '1' }]
			})
		);
	expect(await refused(together(issues))).toContain('does not go with');
	const b = await sale('CELL', '1');
	expect(await refused(together([a, b], { stamps: ['x', 'y'] }))).toContain('changed while you looked');
	await expect(
		bookTogether(
			db.sql,
			{ name: 'audra', role: 'auditor', source: 'screen' },
			{ key: 'k', orders: [{ code: a, stamp: 'x' }] }
		)
	).rejects.toThrow('Only a coordinator');
	expect((await order(a)).lines[0].done).toBe('0');
	// What was picked and waits goes from where it waits.
	await together([far]);
	expect((await order(far)).closedAt).not.toBeNull();
});

it('two people who send overlapping orders at once: each order goes once, whole', async () => {
	const [a, b, c] = [await sale('CELL', '1'), await sale('CELL', '1'), await sale('CELL', '1')];
	const results = await Promise.allSettled([together([a, b]), together([b, c]), together([c, a])]);
	expect(results.some((r) => r.status === 'fulfilled')).toBe(true);
	for (const code of [a, b, c]) {
		const { done } = (await order(code)).lines[0];
		expect(['0', '1']).toContain(done);
	}
	for (const r of results) if (r.status === 'rejected') expect(r.reason).toBeInstanceOf(Problem);
});

it('and the ledger holds', async () => {
	expect(await findingsOf(db.sql)).toEqual([]);
});

it('offers at most twenty, and of those only what can go', async () => {
	await addPartner(db.sql, 'ines', { code: 'C3', name: 'Customer C3', kind: 'customer' });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [{ item: 'GEL', lot: 'G-T', qty: '10', from: '@supplier', to: 'QS/A1' }]
	});
	await createItem(db.sql, 'ines', { code: 'NONE', name: 'Lid', unit: 'each', tracking: 'none' });
	const codes: string[] = [];
	for (let n = 0; n < 23; n++) codes.push(await sale(n === 5 ? 'NONE' : 'GEL', n === 5 ? '9' : '0.01', 'C3', 'QS'));
	const offered = await offerTogether(db.sql, await order(codes[0]), null);
	expect(offered.others).toEqual(codes.slice(1));
	// There is no lid.
	expect(offered.chosen).toEqual(codes.slice(1, 20).filter((_c, i) => i !== 4));
	expect(offered.sheets.map((s) => s.code)).toEqual([codes[0], ...offered.chosen]);
	const chosen = await offerTogether(db.sql, await order(codes[0]), codes);
	expect([chosen.most, chosen.chosen]).toEqual([19, codes.slice(1, 20)]);
	expect((await offerTogether(db.sql, await order(codes[0]), [codes[2], 'SO-9999'])).chosen).toEqual([codes[2]]);
});
