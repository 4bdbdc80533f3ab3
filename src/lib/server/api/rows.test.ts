import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { DOCUMENT_NAMES, documentKind, namesStock, type Kind } from '../../core/document/kinds.ts';
import { Problem } from '../../core/problem/problem.ts';
import { expand } from '../../core/ranges/ranges.ts';
import { add } from '../../core/quantity/quantity.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { makePromise } from '../document/promises.ts';
import { setStatus } from '../ledger/changes.ts';
import { addJob } from '../setup/jobs.ts';
import { createItem } from '../setup/items.ts';
import { addPlace, savePartner } from '../setup/places.ts';
import { parse } from '../parse.ts';
import { replaceRows } from '../sheet/drafts.ts';
import { bookNow } from '../sheet/state.ts';
import { rowBody, rowsOf } from './rows.ts';

const db = testDatabase();

/** What may be in the way of a number. */
const STATES = ['is there', 'is nowhere', 'is elsewhere', 'is held', 'is promised', 'is of another item'] as const;
type State = (typeof STATES)[number];
/** How a row names what it is about: one item carries lots, one serials, one nothing. */
const WAYS = ['lot', 'serial', 'range', 'unmarked'] as const;
type Way = (typeof WAYS)[number];
const ITEM: Record<Way, string> = { lot: 'LL', serial: 'SS', range: 'SS', unmarked: 'NN' };

/** Each case has numbers of its own, so that none is in another's way. A range is three serials, the last of which is in the state. */
let made = 0;
/** Brings a number into a state, and ten before it by every preference that could be suggested instead. */
async function prepare(way: Way, state: State, returns: boolean): Promise<Record<string, unknown>> {
	const n = ++made;
	const at = '2026-03-01T08:00:00Z';
	const here = state === 'is elsewhere' ? 'ND/B1' : 'QS/A1';
	const take = (item: string, movements: object[]) =>
		bookTest(db.sql, {
			...{ kind: 'receipt', partner: 'BOTH', at },
			movements: movements.map((m) => ({ item, from: '@supplier', ...(m as { to: string; qty: string }) }))
		});
	const item = state === 'is of another item' ? (way === 'lot' ? 'OL' : 'OS') : ITEM[way];
	if (way === 'unmarked') {
		await take('NN', [{ qty: '5', to: here }]);
		if (returns) await ship([{ item: 'NN', qty: '5' }]);
		return { qty: '2' };
	}
	if (way === 'lot') {
		const lot = `L-${n}`;
		if (state !== 'is nowhere') await take(item, [{ lot, qty: '4', to: here, expiresOn: '2039-01-01' }]);
		if (returns && state !== 'is nowhere') await ship([{ item, lot, qty: '4' }], here);
		await inTheWay(state, item, lot, '4');
		return { lot, qty: '2' };
	}
	const [first, count] = [`S-${n}-101`, way === 'range' ? 3 : 1];
	const serials = expand(first, count);
	const last = serials[count - 1];
	const known = state === 'is nowhere' ? serials.slice(0, -1) : serials;
	const to = (s: string) => (s === last ? here : 'QS/A1');
	const of = (s: string) => (s === last ? item : ITEM[way]);
	for (const s of known) await take(of(s), [{ serial: s, qty: '1', to: to(s) }]);
	if (returns) for (const s of known) await ship([{ item: of(s), serial: s, qty: '1' }], to(s));
	await inTheWay(state, item, last, '1');
	return way === 'range' ? { serial: first, count: 3 } : { serial: first };
}
const ship = (movements: object[], from = 'QS/A1') =>
	bookTest(db.sql, {
		...{ kind: 'shipment', partner: 'BOTH', at: '2026-03-02T08:00:00Z' },
		movements: movements.map((m) => ({ from, to: '@customer', ...(m as { item: string; qty: string }) }))
	});
async function inTheWay(state: State, item: string, number: string, qty: string) {
	const [mark] = await db.sql<{ id: string }[]>`
		SELECT k.id FROM mark k JOIN item i ON i.id = k.item_id WHERE i.code = ${item} AND k.number = ${number}`;
	if (state === 'is held')
		await setStatus(db.sql, ines, { key: randomUUID(), mark: mark.id, act: 'hold', reason: 'Looked at' });
	if (state === 'is promised') {
		const code = await createDocument(db.sql, 'ines', {
			...{ kind: 'sale', partner: 'OTHER', place: 'QS', lines: [{ item, qty }] }
		});
		await makePromise(db.sql, ines, {
			...{ key: randomUUID(), order: code, line: 1, item, qty },
			...(item.endsWith('L') ? { lot: number } : { serial: number })
		});
	}
}

/** Lines of the order that a kind makes of an item, and the rows that go with the one that is looked at. */
function orderOf(kind: Kind, item: string, qty: string, n: number) {
	const { partner, job, reasons, to } = documentKind(kind);
	const lines = [{ item: kind === 'production' ? `P-${item}` : kind === 'repack' ? `J-${item}` : item, qty }];
	return {
		order: {
			...{ kind, lines, place: kind === 'transfer' || documentKind(kind).place.sites ? 'QS' : 'QS/A1' },
			...(partner ? { partner: 'BOTH' } : {}),
			...(job ? { job: 'JOB' } : {}),
			...(to ? { to: 'ND/B1' } : {}),
			...(reasons ? { reason: REASON[reasons[0]] } : {}),
			...(kind === 'repack' ? { from: item } : {})
		},
		// What is made or packed beside it.
		beside:
			kind === 'production' ? [{ line: 1, lot: `PL-${n}`, qty }] : kind === 'repack' ? [{ line: 2, now: qty }] : [],
		line: kind === 'production' ? 2 : 1
	};
}
const REASON: Record<string, string> = {};

/** Kinds for which a number in a state goes all the same: as it lies, or as it came back. */
const GOES: Partial<Record<Kind, readonly State[]>> = {
	'adjust-out': ['is there', 'is held'],
	'supplier-return': ['is there', 'is held'],
	transfer: ['is there', 'is held', 'is promised'],
	return: ['is there', 'is elsewhere', 'is held'],
	production: ['is there', 'is elsewhere']
};

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'ND', 'ND/B1']) await addPlace(db.sql, 'ines', { code, name: code });
	for (const code of ['BOTH', 'OTHER']) await savePartner(db.sql, 'ines', code, { name: code, kind: 'both' });
	await addJob(db.sql, 'ines', { code: 'JOB', name: 'Job', kind: 'own use' });
	const plain = { unit: 'each', contentQty: '1', contentUnit: 'kg' };
	for (const [code, tracking] of [
		['LL', 'lot'],
		['SS', 'serial'],
		['NN', 'none'],
		['OL', 'lot'],
		['OS', 'serial']
	] as const)
		await createItem(db.sql, 'ines', { ...plain, code, name: code, tracking });
	for (const item of ['LL', 'SS', 'NN']) {
		await createItem(db.sql, 'ines', {
			...{ code: `P-${item}`, name: `P ${item}`, unit: 'each', tracking: 'lot', runMode: 'pooled' },
			parts: [{ item, qty: '1' }]
		});
		await createItem(db.sql, 'ines', {
			...{ ...plain, code: `J-${item}`, name: `J ${item}` },
			tracking: item === 'NN' ? 'none' : 'lot'
		});
	}
	// What would be suggested before everything else.
	await bookTest(db.sql, {
		...{ kind: 'receipt', partner: 'BOTH', at: '2026-01-01T08:00:00Z' },
		movements: [
			...['LL', 'OL'].map((item) => ({ item, lot: `${item}-FIRST`, qty: '900', expiresOn: '2030-01-01' })),
			...['SS', 'OS'].flatMap((item) => expand(`${item}-001`, 20).map((serial) => ({ item, serial, qty: '1' }))),
			{ item: 'NN', qty: '900' }
		].map((m) => ({ ...m, from: '@supplier', to: 'QS/A1' }))
	});
	for (const { name: reason, act } of await db.sql<
		{ name: string; act: string }[]
	>`SELECT name, act FROM reason ORDER BY id DESC`)
		REASON[act] = reason;
});

const TAKING = DOCUMENT_NAMES.filter(
	(k) => k !== 'count' && (namesStock(k, 'goods') || documentKind(k).steps.component)
);

describe.each(TAKING)('rows of a program: %s', (kind) => {
	const cases = WAYS.flatMap((way) => STATES.map((state) => [way, state] as const)).filter(
		([way, state]) => !(way === 'unmarked' && state !== 'is there') && !(kind === 'return' && state === 'is promised')
	);
	it.each(cases)('a %s that %s: what is booked is what the rows say, or it is refused by name', async (way, state) => {
		const row = await prepare(way, state, kind === 'return');
		const qty = way === 'range' ? '3' : way === 'serial' ? '1' : '2';
		const { order, beside, line } = orderOf(kind, ITEM[way], qty, made);
		const code = await createDocument(db.sql, 'ines', order);
		const mine = (await getOrder(db.sql, code))!;
		const goes = kind === 'return' ? { goes: 'stock' as const } : {};
		const given = [...beside, { line, ...row, ...goes }].map((r) => parse(rowBody, r));
		const book = () => bookNow(db.sql, ines, code, { key: randomUUID(), reason: 'A test says so' });
		const act = async () => {
			await replaceRows(db.sql, 'ines', mine, await rowsOf(db.sql, mine, given), false);
			return bookNow(db.sql, ines, code, { key: randomUUID() });
		};
		const outcome = await act().catch((e: unknown) => e);
		const movements = await db.sql<{ number: string | null; qty: string }[]>`
			SELECT k.number, trim_scale(sum(m.qty))::text AS qty FROM movement m JOIN event e ON e.id = m.event_id JOIN orders o ON o.id = e.order_id AND o.code = ${code}
			JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id AND i.code = ${ITEM[way]} WHERE m.role IS DISTINCT FROM 'make' GROUP BY k.id, k.number ORDER BY k.id`;
		const may = (GOES[kind] ?? ['is there']).includes(state) || way === 'unmarked';
		if (outcome instanceof Problem) {
			const said = outcome.faults.map((f) => f.message).join(' ');
			expect(may, said).toBe(false);
			// Whatever is in its way, the sentence names it; and nothing else goes in its place.
			expect(said).toContain(String(row.lot ?? (way === 'range' ? `S-${made}-103` : row.serial)));
			expect(movements).toEqual([]);
			await replaceRows(db.sql, 'ines', mine, [], true);
			if (documentKind(kind).scans === 'stock') await expect(book()).rejects.toThrow(/nothing is named|less go in/);
			return;
		}
		if (!(outcome && typeof outcome === 'object' && 'movements' in outcome)) throw outcome;
		expect(may).toBe(true);
		const numbers = way === 'range' ? expand(String(row.serial), 3) : [row.lot ?? row.serial ?? null];
		expect(movements.map((m) => m.number)).toEqual(numbers);
		expect(movements.reduce((sum, m) => add(sum, m.qty), '0')).toBe(qty);
	});
});

describe('rows of a program', () => {
	const fill = async (kind: Kind, item: string, qty: string, row: object, mode?: 'use' | 'output') => {
		const { order, line } = orderOf(kind, item, qty, ++made);
		const code = await createDocument(db.sql, 'ines', order);
		const mine = (await getOrder(db.sql, code))!;
		const rows = await rowsOf(db.sql, mine, [parse(rowBody, { line, ...row })], mode);
		await replaceRows(db.sql, 'ines', mine, rows, false);
		return code;
	};
	it('say nothing that nobody books: what a line does not take is refused', async () => {
		await expect(fill('sale', 'LL', '1', { lot: 'LL-FIRST', qty: '1', supplierLot: 'X' })).rejects.toThrow(
			'supplierLot cannot be said of line 1'
		);
		await expect(fill('purchase', 'LL', '1', { lot: 'NEW', qty: '1', goes: 'stock', to: 'QS/A1' })).rejects.toThrow(
			'to, goes cannot be said'
		);
		await expect(fill('sale', 'LL', '1', { lot: 'LL-FIRST' })).rejects.toThrow('Say how much of lot LL-FIRST');
		await expect(fill('sale', 'SS', '2', { serial: 'SS-001', qty: '2' })).rejects.toThrow('Serial SS-001 is one piece');
		await expect(fill('sale', 'LL', '1', { lot: 'LL-FIRST', qty: '1', place: 'ND/B1' })).rejects.toThrow(
			'Lot LL-FIRST is not at ND/B1: it is at QS/A1'
		);
	});
	it('of a transfer name what leaves, then what arrives', async () => {
		const code = await fill('transfer', 'SS', '2', { serial: 'SS-011', count: 2 }, 'use');
		await bookNow(db.sql, ines, code, { key: randomUUID(), mode: 'use' });
		const order = (await getOrder(db.sql, code))!;
		await expect(rowsOf(db.sql, order, [{ line: 1, serial: 'SS-013' }], 'output')).rejects.toThrow(
			'SS-013 was not sent'
		);
		await replaceRows(
			db.sql,
			'ines',
			order,
			await rowsOf(db.sql, order, [{ line: 1, serial: 'SS-012' }], 'output'),
			false
		);
		await bookNow(db.sql, ines, code, { key: randomUUID(), mode: 'output' });
		const at = await db.sql`
			SELECT k.number, p.code FROM balance b JOIN mark k ON k.id = b.mark_id AND k.number IN ('SS-011', 'SS-012') JOIN place p ON p.id = b.place_id WHERE b.qty > 0 AND NOT b.virtual ORDER BY 1`;
		expect([...at].map((a) => a.code)).toEqual(['IN-TRANSIT', 'ND/B1']);
	});
	it('are booked with what is suggested where a program says so', async () => {
		const code = await createDocument(db.sql, 'ines', {
			...{ kind: 'sale', partner: 'BOTH', place: 'QS', lines: [{ item: 'LL', qty: '3' }] }
		});
		await expect(bookNow(db.sql, ines, code, { key: 'bare' })).rejects.toThrow('Line 1: nothing is named');
		expect(await bookNow(db.sql, ines, code, { key: 'all', suggested: true })).toMatchObject({ movements: 1 });
		// The same key says the same again, and not something else.
		await expect(bookNow(db.sql, ines, code, { key: 'all' })).rejects.toThrow('stands for something else');
	});
	it('leave a ledger that holds', async () => expect(await findingsOf(db.sql)).toEqual([]));
});
