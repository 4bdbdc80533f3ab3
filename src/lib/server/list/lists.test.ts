import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, testDatabase } from '../../../../tests/db/cluster.ts';
import { DOCUMENT_NAMES } from '../../core/document/kinds.ts';
import { bySpan, readCursor, readView, sorts, type ListPage, type ListView } from '../../core/list/list.ts';
import { nothing, STEPS } from '../../core/marking/rule.ts';
import { createDocument } from '../document/create.ts';
import { printLabels } from '../labels/jobs.ts';
import { lists } from '../lists.ts';
import { contextOf, draw } from '../numbering/draw.ts';
import { listPatterns, savePattern } from '../numbering/patterns.ts';
import { addPerson } from '../people/people.ts';
import { makeToken } from '../people/tokens.ts';
import { saveFact } from '../setup/facts.ts';
import { createItem } from '../setup/items.ts';
import { addJob } from '../setup/jobs.ts';
import { saveKind } from '../setup/kinds.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { openDocuments } from '../today/today.ts';
import { chooseColumns, listAll, listPage } from './read.ts';
import type { ListSource } from './source.ts';

const db = testDatabase();
const today = '2026-03-02';
const asker = { today, login: 'ines' };
const view = (source: ListSource, text = '', size = 500): ListView => ({
	...readView(source, new URLSearchParams(text)),
	size
});
const page = (source: ListSource, v: ListView) => listPage(db.sql, source, v, asker);
const ids = (p: Pick<ListPage, 'rows'>) => p.rows.map((r) => r.id);

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/A2', 'QS/A10', 'HH', 'HH/A1'])
		await addPlace(db.sql, 'ines', { code, name: code, dock: code === 'QS/A2' });
	for (const [code, name, kind] of [
		['S1', 'Salt works', 'supplier'],
		['C1', 'Harbour board', 'customer'],
		['B1', 'Both of them', 'both']
	])
		await addPartner(db.sql, 'ines', { code, name, kind });
	for (const [code, name] of [
		['CHEM', 'Chemicals'],
		['ELEC', 'Electronics']
	])
		await saveKind(db.sql, 'ines', { code, name, rules: STEPS.map(nothing) });
	for (const code of ['GEL', 'SALT', 'OIL'])
		await createItem(db.sql, 'ines', { code, name: `The ${code}`, unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', {
		code: 'PACK',
		name: 'Pack',
		unit: 'each',
		tracking: 'serial',
		parts: [{ item: 'CELL', qty: '2' }]
	});
	for (const code of ['TEMP', 'CERT', 'MELT'])
		await saveFact(db.sql, 'ines', {
			code,
			name: `Field ${code}`,
			kind: code === 'TEMP' ? 'number' : 'text',
			...(code === 'TEMP' ? { unit: '°C', low: '2', high: '8' } : {})
		});
	for (const code of ['L-A', 'L-B'])
		await savePattern(db.sql, 'ines', {
			code,
			name: `Pattern ${code}`,
			blocks: [
				{ kind: 'text', text: `${code}-` },
				{ kind: 'sequence', digits: 4, reset: 'never' }
			]
		});
	const [pattern] = await listPatterns(db.sql);
	const [{ id: gel }] = await db.sql<{ id: string }[]>`SELECT id FROM item WHERE code = 'GEL'`;
	await draw(db.sql, 'ines', {
		pattern,
		item: { id: gel, code: 'GEL' },
		kind: 'lot',
		count: 3,
		order: null,
		context: contextOf('GEL', { place: 'QS', zone: 'UTC' })
	});
	for (const [code, kind] of [
		['LAB', 'department'],
		['OWN', 'own use'],
		['YARD', 'department']
	])
		await addJob(db.sql, 'ines', { code, name: `Job ${code}`, kind });
	for (const login of ['rhea', 'tom'])
		await addPerson(db.sql, 'ines', { login, name: `Person ${login}`, role: 'assembly', password: 'long enough 1' });
	for (const name of ['scales', 'shop', 'robot']) await makeToken(db.sql, name, 'auditor', 'ines');
	for (const [n, due] of [
		['1', '2026-03-01'],
		['2', null],
		['10', '2026-03-01'],
		['11', '2026-04-01']
	] as const) {
		for (const [kind, partner, job] of [
			['purchase', 'S1', null],
			['sale', 'C1', null],
			['issue', null, 'LAB']
		] as const)
			await createDocument(db.sql, 'ines', {
				kind,
				code: `${kind.toUpperCase()}-${n}`,
				...(partner ? { partner } : {}),
				...(job ? { job } : {}),
				place: kind === 'purchase' ? 'QS/A1' : 'QS',
				dueOn: due,
				lines: [{ item: 'GEL', qty: n }]
			});
		await createDocument(db.sql, 'ines', {
			kind: 'production',
			code: `MAKE-${n}`,
			place: 'QS/A1',
			dueOn: due,
			lines: [{ item: 'PACK', qty: n }]
		});
	}
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		document: 'DN-1',
		movements: [
			...[1, 2, 10, 11].map((n) => ({
				item: 'GEL',
				lot: `G-${n}`,
				...(n === 1 ? { expiresOn: '2026-03-10', supplierLot: 'SW/77' } : {}),
				...(n === 2 ? { expiresOn: '2027-01-01' } : {}),
				qty: `${n}.5`,
				from: '@supplier',
				to: n % 2 ? 'QS/A1' : 'QS/A10'
			})),
			...[1, 2, 3].map((n) => ({ item: 'CELL', serial: `C-${n}`, qty: '1', from: '@supplier', to: 'QS/A1' }))
		]
	});
	await bookTest(db.sql, {
		kind: 'shipment',
		partner: 'C1',
		document: 'SH-1',
		movements: [{ item: 'CELL', serial: 'C-1', qty: '1', from: 'QS/A1', to: '@customer' }]
	});
	for (const place of ['QS/A1', 'QS/A2', 'QS/A10']) await printLabels(db.sql, 'ines', { place });
});

describe.each([...lists].map(([key, source]) => ({ key, source })))('the list $key', ({ key, source }) => {
	it('sorts by each column both ways, and its pages put together are the whole', async () => {
		const sum = (await page(source, view(source))).count;
		for (const c of source.columns.filter(sorts))
			for (const way of ['', '-']) {
				const whole = await page(source, view(source, `sort=${way}${c.key}`));
				expect(whole.rows.length, `${key} by ${c.key}`).toBe(sum);
				const seen: string[] = [];
				let [at, v] = [null as string | null, view(source, `sort=${way}${c.key}`, 2)];
				let last: ListPage | null = null;
				do {
					const p: ListPage = await page(source, { ...v, after: readCursor(at) });
					expect(p.first).toBe(seen.length);
					seen.push(...ids(p));
					last = p;
					at = p.next;
				} while (at);
				expect(seen, `${key} by ${way}${c.key}`).toEqual(ids(whole));
				// And back again from the last page.
				const back: string[] = ids(last);
				for (let before = last.previous; before;) {
					v = { ...v, after: null, before: readCursor(before) };
					const p = await page(source, v);
					back.unshift(...ids(p));
					before = p.previous;
				}
				expect(back, `${key} back by ${way}${c.key}`).toEqual(ids(whole));
			}
	});
	it('is in the order of its columns: numbers by their size, words as people count', async () => {
		for (const c of source.columns.filter((x) => sorts(x) && x.kind !== 'choice' && x.from)) {
			const { rows } = await page(source, view(source, `sort=${c.key}`));
			const values = rows.map((r) => r[c.key]);
			const filled = values.filter((x): x is string => x !== null);
			expect(values.slice(0, filled.length), `${key}.${c.key}: what is empty comes last`).toEqual(filled);
			const sorted = [...filled].sort((a, b) =>
				c.kind === 'number' ? Number(a) - Number(b) : a.localeCompare(b, 'en', { numeric: true })
			);
			expect(filled).toEqual(sorted);
		}
	});
	it('is narrowed by each column to the rows that have the value, and by what is found in it', async () => {
		const { rows, count } = await page(source, view(source));
		for (const c of source.columns) {
			if (c.computed || c.where || c.filterOnly) continue;
			const value = rows.map((r) => r[c.key]).find((x) => x !== null && x !== undefined);
			if (!value) continue;
			const day = c.kind === 'moment' ? value.slice(0, 10) : value;
			const asked = new URLSearchParams(
				bySpan(c) ? { [`${c.key}.from`]: day, [`${c.key}.to`]: day } : { [c.key]: value }
			);
			const got = await page(source, view(source, asked.toString()));
			const fits = rows.filter((r) =>
				c.kind === 'text'
					? r[c.key]?.toLowerCase().includes(value.toLowerCase())
					: c.kind === 'moment'
						? r[c.key]?.startsWith(day)
						: r[c.key] === value
			);
			expect(ids(got).sort(), `${key}.${c.key} = ${value}`).toEqual(fits.map((r) => r.id).sort());
			expect(got.count).toBe(fits.length);
		}
		if (source.find && count) {
			const text = source.columns.find((c) => c.kind === 'text' && c.from)?.key ?? 'item';
			const value = rows[0][text]!;
			const got = await page(source, view(source, new URLSearchParams({ find: value }).toString()));
			expect(ids(got)).toContain(rows[0].id);
			expect((await page(source, view(source, 'find=no+such+thing+%25_'))).count).toBe(0);
		}
	});
	it('is exported whole, in its order', async () => {
		const whole = await page(source, view(source));
		const out: string[] = [];
		for await (const rows of listAll(db.sql, source, view(source), today)) out.push(...rows.map((r) => r.id));
		expect(out).toEqual(ids(whole));
	});
});

describe('what a list is narrowed to in a way of its own', () => {
	const register = lists.get('register')!;
	const numbers = async (text: string) => (await page(register, view(register, text))).rows.map((r) => r.number);
	it('is found by the names of what it can be narrowed to as well: stock by its item and place', async () => {
		const stock = lists.get('stock')!;
		const found = async (text: string) =>
			new Set((await page(stock, view(stock, `find=${text}`))).rows.map((r) => `${r.itemCode} ${r.place}`));
		const [{ name }] = await db.sql<{ name: string }[]>`SELECT name FROM item WHERE code = 'GEL'`;
		const gel = await found(encodeURIComponent(name.toLowerCase()));
		expect(gel.size).toBeGreaterThan(0);
		expect([...gel].every((x) => x.startsWith('GEL '))).toBe(true);
		expect([...(await found('a10'))].every((x) => x.endsWith(' QS/A10'))).toBe(true);
	});
	it('the register shows what is on hand, and finds what is not', async () => {
		expect(await numbers('')).toEqual(['C-2', 'C-3', 'G-1', 'G-2', 'G-10', 'G-11']);
		expect(await numbers('show=gone')).toEqual(['C-1']);
		expect(await numbers('find=c-')).toEqual(['C-1', 'C-2', 'C-3']);
		expect(await numbers('find=c-&show=on+hand')).toEqual(['C-2', 'C-3']);
		expect(await numbers('find=sw/7')).toEqual(['G-1']);
		expect(await numbers('show=expiring')).toEqual(['G-1']);
		expect(await numbers('place=QS/A10')).toEqual(['G-2', 'G-10']);
		expect(await numbers('place=QS&kind=serial')).toEqual(['C-2', 'C-3']);
		expect(await numbers('item=CELL&show=all')).toEqual(['C-1', 'C-2', 'C-3']);
	});
	it('what was moved at a bin is what came to it and what left it, a page at a time; at a site, in all its bins', async () => {
		const moved = lists.get('moved')!;
		const whole = (await page(moved, view(moved))).rows;
		for (const [place, at] of [
			['QS/A1', (code: string | null) => code === 'QS/A1'],
			['QS', (code: string | null) => code === 'QS' || !!code?.startsWith('QS/')],
			['HH/A1', (code: string | null) => code === 'HH/A1']
		] as const) {
			const fits = whole.filter((r) => at(r.from) || at(r.to)).map((r) => r.id);
			for (const sort of ['-line', 'line', 'number']) {
				const asked = view(moved, new URLSearchParams({ place, sort }).toString(), 2);
				const seen: string[] = [];
				for (let after: string | null = ''; after !== null;) {
					const p: ListPage = await page(moved, { ...asked, after: readCursor(after) });
					expect(p.count).toBe(fits.length);
					seen.push(...ids(p));
					after = p.next;
				}
				if (sort === 'number') expect(seen.sort()).toEqual([...fits].sort());
				else expect(seen).toEqual(sort === '-line' ? fits : [...fits].reverse());
			}
		}
	});
	it('what two columns of a list choose from is the same, once', async () => {
		const contents = lists.get('contents')!;
		const { shape } = await page(contents, view(contents));
		const [made, part] = ['item', 'partItem'].map((key) => shape.columns.find((c) => c.key === key)!.choices);
		expect(made!.map((c) => c.value).sort()).toEqual(['CELL', 'GEL', 'OIL', 'PACK', 'SALT']);
		expect(part).toBe(made);
	});
	it('a list of orders shows the open ones, those without a day last', async () => {
		const sale = lists.get('sale')!;
		const codes = async (text: string) => (await page(sale, view(sale, text))).rows.map((r) => r.code);
		expect(await codes('')).toEqual(['SALE-1', 'SALE-10', 'SALE-11', 'SALE-2']);
		expect(await codes('which=complete')).toEqual([]);
		expect(await codes('which=all&due.to=2026-03-31')).toEqual(['SALE-1', 'SALE-10']);
		expect(await codes('find=harbour&sort=-code')).toEqual(['SALE-11', 'SALE-10', 'SALE-2', 'SALE-1']);
	});
	it('what waits is what is due, has no day, or is begun; how many are open is counted for each kind', async () => {
		const sale = lists.get('sale')!;
		const waiting = async () => (await page(sale, view(sale, 'which=waiting'))).rows.map((r) => r.code);
		expect(await waiting()).toEqual(['SALE-1', 'SALE-10', 'SALE-2']);
		await db.sql`INSERT INTO draft_row (id, order_id, line_id, data, changed_by)
			SELECT ${crypto.randomUUID()}, o.id, l.id, '{}', 'ines' FROM orders o JOIN order_line l ON l.order_id = o.id WHERE o.code = 'SALE-11'`;
		expect(await waiting()).toEqual(['SALE-1', 'SALE-10', 'SALE-11', 'SALE-2']);
		await db.sql`DELETE FROM draft_row`;
		const open = await openDocuments(db.sql);
		for (const kind of DOCUMENT_NAMES) {
			const { count } = await page(lists.get(kind)!, view(lists.get(kind)!));
			expect([kind, open.get(kind) ?? 0]).toEqual([kind, count]);
		}
	});
	it('events are found by what they are called by, whoever booked them', async () => {
		const events = lists.get('events')!;
		const all = (await page(events, view(events))).count;
		const found = async (text: string) => (await page(events, view(events, `find=${text}`))).count;
		expect(all).toBeGreaterThan(0);
		const [{ document }] = await db.sql<
			{ document: string }[]
		>`SELECT document FROM event WHERE document IS NOT NULL ORDER BY id LIMIT 1`;
		expect(await found(document.toLowerCase())).toBeGreaterThan(0);
		expect(await found('nobody%20like%20it')).toBe(0);
		const [{ n }] = await db.sql<
			{ n: number }[]
		>`SELECT count(*)::int AS n FROM event WHERE partner_id = (SELECT id FROM partner WHERE code = 'S1')`;
		expect(await found('salt%20WORKS')).toBe(n);
	});
	it('a cursor that is made up, or of another list, is answered and breaks nothing', async () => {
		for (const [, source] of lists)
			for (const c of source.columns.filter(sorts))
				for (const after of [
					'["abc","5",0]',
					'["2027-02-30","5",0]',
					'["1","5.6.7",3]',
					'[null,"5",0]',
					'["","999999999999999999",9]'
				]) {
					const asked = new URLSearchParams({ sort: c.key, after });
					expect((await page(source, view(source, asked.toString()))).count).toBeGreaterThanOrEqual(0);
				}
	});
	it('a person’s columns are kept, each list for itself, and given up again', async () => {
		const items = lists.get('items')!;
		await chooseColumns(db.sql, 'ines', items, ['gtin', 'code', 'nothing of the kind']);
		expect((await page(items, view(items))).chosen).toEqual(['code', 'gtin']);
		expect((await listPage(db.sql, items, view(items), { today, login: 'tom' })).chosen).toBeNull();
		await chooseColumns(db.sql, 'ines', items, []);
		expect((await page(items, view(items))).chosen).toBeNull();
	});
});
