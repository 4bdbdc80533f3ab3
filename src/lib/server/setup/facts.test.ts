import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { findingsOf, bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { nothing, STEPS, type How, type Rule } from '../../core/marking/rule.ts';
import { book } from '../ledger/book.ts';
import { recordFact } from '../ledger/changes.ts';
import { createDocument } from '../document/create.ts';
import { removeRows, saveRows, type RowData } from '../sheet/drafts.ts';
import { getOrder } from '../document/orders.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { attachments, readFile, storeFile } from '../register/attachments.ts';
import { find } from '../register/find.ts';
import { markPage } from '../register/mark.ts';
import { listFacts, saveFact, type FactInput } from './facts.ts';
import { changeItem, createItem, listItems, ruleMeans } from './items.ts';
import { getKind, kindMeans, saveKind } from './kinds.ts';
import { addPartner, addPlace } from './places.ts';
import { readPolicy } from '../ledger/catalogue.ts';
import { savePolicy } from './policy.ts';

const db = testDatabase();
const temp: FactInput = {
	code: 'TEMP',
	name: 'Temperature',
	kind: 'number',
	unit: '°C',
	decimals: 1,
	low: '2',
	high: '8'
};
const rules = (at: Partial<Record<string, Partial<Rule>>>, lot: How = 'required'): Rule[] =>
	STEPS.map((step) => ({ ...nothing(step), lot, ...at[step] }));
const order = async (kind: 'purchase' | 'sale', lines: [string, string][]) => {
	const code = await createDocument(db.sql, 'ines', {
		kind,
		partner: kind === 'sale' ? 'C' : 'S',
		place: 'QS/A1',
		lines: lines.map(([item, qty]) => ({ item, qty }))
	});
	return (await getOrder(db.sql, code))!;
};
const type = async (code: string, ...rows: RowData[]) => {
	const o = (await getOrder(db.sql, code))!;
	await saveRows(
		db.sql,
		'ines',
		o,
		rows.map((data) => ({ id: randomUUID(), lineId: o.lines[0].id, version: 0, data }))
	);
};
const bookNow = async (code: string, reason?: string) =>
	bookSheet(db.sql, ines, code, { key: randomUUID(), stamp: (await sheetState(db.sql, code)).stamp, reason });
const said = async (code: string) => (await sheetState(db.sql, code)).missing.map((m) => `${m.level}: ${m.message}`);
const markOf = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/B1']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'S', name: 'Supplier', kind: 'supplier' });
	await addPartner(db.sql, 'ines', { code: 'C', name: 'Customer', kind: 'customer' });
	await saveFact(db.sql, 'ines', temp);
	await saveFact(db.sql, 'ines', { code: 'CERT', name: 'Certificate no.', kind: 'text' });
	await saveFact(db.sql, 'ines', { code: 'COA', name: 'Certificate', kind: 'file' });
	await saveFact(db.sql, 'ines', { code: 'PACK', name: 'Packaging', kind: 'choice', choices: ['sound', 'wet'] });
	await saveFact(db.sql, 'ines', { code: 'CAL', name: 'Calibrated on', kind: 'date', per: 'piece' });
	await saveKind(db.sql, 'ines', {
		code: 'CHEM',
		name: 'Chemicals',
		rules: rules({
			receipt: { expiry: 'required', facts: { TEMP: 'required', CERT: 'asked' } },
			shipment: { facts: { PACK: 'required' } }
		})
	});
	for (const code of ['SALT', 'ACID'])
		await createItem(db.sql, 'ines', { code, name: code, unit: 'kg', decimals: 3, tracking: 'lot', kind: 'CHEM' });
	await createItem(db.sql, 'ines', {
		code: 'METER',
		name: 'Meter',
		unit: 'each',
		tracking: 'lot and serial',
		warranty: 'P24M'
	});
});

describe('a fact is defined', () => {
	it.each([
		[{ ...temp, code: 'T2', name: 'T2', low: '9', high: '8' }, 'The lower limit 9 is above'],
		[{ code: 'T3', name: 'T3', kind: 'choice', choices: ['one'] }, 'at least two different values'],
		[{ code: 'T4', name: 'T4', kind: 'choice', choices: ['a', 'A'] }, 'at least two different values'],
		[{ code: 'TEMP', name: 'Another', kind: 'text' }, 'The field TEMP has this code or name already'],
		[{ code: 'OTHER', name: 'temperature', kind: 'text' }, 'The field TEMP has this code or name already'],
		[{ code: 'a b', name: 'x', kind: 'text' }, '1 to 30 letters'],
		[{ ...temp, code: 'T5', name: 'T5', low: 'cold' }, 'Type digits']
	] as [FactInput, string][])('%j is refused', async (input, why) => {
		await expect(saveFact(db.sql, 'ines', input)).rejects.toThrow(why);
	});
	it('its limits may change; what its values mean stays once it is used', async () => {
		await saveFact(db.sql, 'ines', { ...temp, high: '9' }, 'TEMP');
		expect((await listFacts(db.sql, ['TEMP']))[0]).toMatchObject({ high: '9', used: false, asked: 1 });
		await saveFact(db.sql, 'ines', temp, 'TEMP');
		await expect(saveFact(db.sql, 'ines', { ...temp, code: 'T9' }, 'TEMP')).rejects.toThrow(
			'The code of a field stays'
		);
	});
});

describe('a kind of items', () => {
	it('gives its rule to its items, and an item may have its own instead', async () => {
		const [salt] = await listItems(db.sql, 'SALT');
		expect(salt).toMatchObject({ kind: 'CHEM', ownRule: false, expiry: 'required' });
		expect(salt.rules.find((r) => r.step === 'receipt')!.facts).toEqual({ TEMP: 'required', CERT: 'asked' });
		const own = { ...salt, rules: rules({}), parts: [], kind: 'CHEM', ownRule: true };
		const change = (x: typeof own) => ({ name: x.name, rules: x.rules, parts: [], kind: x.kind, ownRule: x.ownRule });
		expect(await ruleMeans(db.sql, 'SALT', change(own))).toEqual([
			'An expiry date is no longer asked at receipt.',
			'Temperature is no longer asked at receipt.',
			'Certificate no. is no longer asked at receipt.',
			'Packaging is no longer asked at shipment.'
		]);
		await changeItem(db.sql, 'ines', 'SALT', change(own));
		expect((await listItems(db.sql, 'SALT'))[0]).toMatchObject({ ownRule: true, expiry: 'not asked' });
		expect((await getKind(db.sql, 'CHEM'))!).toMatchObject({ items: 2, follow: 1 });
		await changeItem(db.sql, 'ines', 'SALT', { ...change(own), ownRule: false });
		expect((await listItems(db.sql, 'SALT'))[0].expiry).toBe('required');
	});
	it('of an item only the numbers count that it carries', async () => {
		await saveKind(db.sql, 'ines', { code: 'BOTH', name: 'Both', rules: rules({ receipt: { serial: 'required' } }) });
		await createItem(db.sql, 'ines', { code: 'LOTONLY', name: 'x', unit: 'each', tracking: 'lot', kind: 'BOTH' });
		expect((await listItems(db.sql, 'LOTONLY'))[0].rules[0]).toMatchObject({ lot: 'required', serial: 'not asked' });
	});
	it('a change of its rule says what it means for all of them before it is saved', async () => {
		await bookTest(db.sql, {
			kind: 'receipt',
			movements: [
				{
					item: 'ACID',
					lot: 'A-0',
					qty: 5,
					from: '@supplier',
					to: 'QS/A1',
					expiresOn: '2199-01-01',
					facts: { TEMP: 4, CERT: 'x' }
				}
			]
		});
		const o = await order('sale', [['ACID', '1']]);
		const looser = rules({}, 'not asked');
		const means = await kindMeans(db.sql, 'CHEM', looser);
		expect(means).toContainEqual(expect.stringMatching(/^A lot is no longer asked at receipt.*unmarked stock/));
		expect(means).toContainEqual(
			expect.stringMatching(new RegExp(`^Packaging is no longer asked at shipment\\. ${o.code} is open`))
		);
		expect(await kindMeans(db.sql, 'CHEM', (await getKind(db.sql, 'CHEM'))!.rules)).toEqual([]);
	});
	it('cannot take the serial away from an item whose every piece has a run of its own', async () => {
		await saveKind(db.sql, 'ines', {
			code: 'UNITS',
			name: 'Units',
			rules: rules({ 'production output': { serial: 'required' } })
		});
		await createItem(db.sql, 'ines', {
			code: 'U',
			name: 'U',
			unit: 'each',
			tracking: 'serial',
			runMode: 'unit',
			kind: 'UNITS'
		});
		await expect(saveKind(db.sql, 'ines', { code: 'UNITS', name: 'Units', rules: rules({}) }, 'UNITS')).rejects.toThrow(
			'U is made one by one'
		);
	});
	it.each([
		[
			'a kind twice',
			() => saveKind(db.sql, 'ines', { code: 'CHEM', name: 'x', rules: [] }),
			'There is a kind CHEM already'
		],
		[
			'an unknown kind',
			() => createItem(db.sql, 'ines', { code: 'X', name: 'x', unit: 'kg', tracking: 'lot', kind: 'NONE' }),
			'There is no kind NONE'
		],
		[
			'an unknown fact',
			() => saveKind(db.sql, 'ines', { code: 'K', name: 'x', rules: rules({ receipt: { facts: { NOPE: 'asked' } } }) }),
			'not known any more'
		]
	] as [string, () => Promise<unknown>, string][])('%s is refused', (_n, act, why) =>
		expect(act()).rejects.toThrow(why)
	);
});

describe('facts in a sheet', () => {
	it('are asked at their step, checked as they arrive, and kept with the lot', async () => {
		const o = await order('purchase', [['SALT', '50']]);
		expect(o.lines[0].facts.map((f) => `${f.code} ${f.how}`)).toEqual(['CERT asked', 'TEMP required']);
		await type(
			o.code,
			{ lot: 'S-1', qty: '25', expiresOn: '2199-01-01' },
			{ lot: 'S-2', qty: '25', expiresOn: '2199-01-01', facts: { TEMP: '31', CERT: 'C-2' } }
		);
		expect(await said(o.code)).toEqual([
			'stop: Lot S-1: Temperature is missing. Type it in.',
			'reason: Lot S-1: Certificate no. is not given. Enter it, or say why there is none.',
			'reason: Lot S-2: Temperature 31 °C is outside 2 to 8 °C. Say why it is taken.'
		]);
		const [first] = (await sheetState(db.sql, o.code)).lines[0].rows;
		await saveRows(db.sql, 'ines', o, [
			{
				id: first.id,
				lineId: o.lines[0].id,
				version: 1,
				data: { lot: 'S-1', qty: '25', expiresOn: '2199-01-01', facts: { TEMP: ' 4.50 ', CERT: 'C-1' } }
			}
		]);
		await expect(bookNow(o.code)).rejects.toThrow('outside 2 to 8');
		const { id } = await bookNow(o.code, 'lorry stood in the sun');
		const page = (await markPage(db.sql, await markOf('S-1')))!;
		expect(page.facts.map((f) => `${f.name}: ${f.value}, ${f.by}, event ${f.event}`)).toEqual([
			`Certificate no.: C-1, ines, event ${id}`,
			`Temperature: 4.5 °C, ines, event ${id}`
		]);
	});
	it('of one lot in two rows are one: what one row says counts for the other, and they may not differ', async () => {
		const o = await order('purchase', [['SALT', '50']]);
		const row = (place: string, facts: Record<string, string>) => ({
			lot: 'S-3',
			qty: '25',
			expiresOn: '2199-01-01',
			place,
			facts
		});
		await type(o.code, row('', { TEMP: '4', CERT: 'C' }), row('QS/B1', {}));
		expect(await said(o.code)).toEqual([]);
		await type(o.code, row('QS/A1', { TEMP: '5' }));
		expect(await said(o.code)).toContain(
			'stop: Temperature of lot S-3 is 4 °C in one row and 5 °C here. Make them the same.'
		);
	});
	it('a lot that comes again: what is recorded is not asked; another value replaces it, and both stay', async () => {
		const o = await order('purchase', [['SALT', '5']]);
		await type(o.code, { lot: 'S-1', qty: '5' });
		expect(await said(o.code)).toEqual([]);
		const again = await order('purchase', [['SALT', '6']]);
		await type(again.code, { lot: 'S-1', qty: '6', facts: { TEMP: '6' } });
		await bookNow(again.code);
		const page = (await markPage(db.sql, await markOf('S-1')))!;
		expect(page.facts.find((f) => f.code === 'TEMP')!.value).toBe('6 °C');
		expect(page.life.map((e) => e.change).filter(Boolean)).toEqual(['Temperature: 4.5 °C → 6 °C']);
	});
	it('are asked of what is shipped too', async () => {
		const o = await order('sale', [['SALT', '2']]);
		expect((await said(o.code))[0]).toMatch(/^stop: Lot S-\d: Packaging is missing\. Type it in\.$/);
		await expect(bookNow(o.code)).rejects.toThrow('Packaging is missing');
		const [pick] = (await sheetState(db.sql, o.code)).lines[0].cells[0].picks;
		await type(o.code, { mark: pick.mark, place: pick.place, qty: pick.qty, facts: { PACK: 'Sound' } });
		expect(await said(o.code)).toEqual([]);
		await bookNow(o.code);
		expect((await markPage(db.sql, pick.mark))!.facts.find((f) => f.code === 'PACK')!.value).toBe('sound');
	});
	it('a file is kept once, with every lot that it belongs to', async () => {
		await changeItem(db.sql, 'ines', 'SALT', {
			name: 'SALT',
			parts: [],
			rules: rules({ receipt: { facts: { COA: 'required' } } })
		});
		const bytes = new TextEncoder().encode('%PDF-1.4 certificate');
		const kept = await storeFile(db.sql, 'tobi', { name: 'co/a.pdf', bytes });
		const o = await order('purchase', [['SALT', '2']]);
		const value = `${kept.sha256} ${kept.name}`;
		await type(
			o.code,
			{ lot: 'F-1', qty: '1', facts: { COA: value } },
			{ lot: 'F-2', qty: '1', facts: { COA: value } }
		);
		await bookNow(o.code);
		for (const lot of ['F-1', 'F-2']) {
			const { files } = await attachments(db.sql, await markOf(lot));
			expect(files).toMatchObject([{ name: 'co_a.pdf', type: 'application/pdf', size: bytes.length, by: 'ines' }]);
			expect((await readFile(db.sql, files[0].id))!.content.equals(bytes)).toBe(true);
		}
		expect((await readFile(db.sql, kept.sha256))!.type).toBe('application/pdf');
		const [{ n }] = await db.sql<{ n: number }[]>`SELECT count(*)::int AS n FROM stored_file`;
		expect(n).toBe(1);
		await expect(db.owner`DELETE FROM stored_file`).rejects.toThrow('never changed or deleted');
	});
});

describe('an expiry date', () => {
	it('may be asked at any step: typed beside what goes when none is recorded, and then kept', async () => {
		await createItem(db.sql, 'ines', { code: 'LATE', name: 'Late', unit: 'kg', decimals: 3, tracking: 'lot' });
		await changeItem(db.sql, 'ines', 'LATE', {
			name: 'Late',
			parts: [],
			rules: rules({ shipment: { expiry: 'required' }, move: { expiry: 'asked' } })
		});
		await bookTest(db.sql, {
			kind: 'receipt',
			movements: [{ item: 'LATE', lot: 'D-1', qty: 9, from: '@supplier', to: 'QS/A1' }]
		});
		const move = (more: object) =>
			bookTest(db.sql, {
				kind: 'move',
				movements: [{ item: 'LATE', lot: 'D-1', qty: 1, from: 'QS/A1', to: 'QS/B1' }],
				...more
			});
		await expect(move({})).rejects.toThrow('Lot D-1 needs an expiry date at move');
		await move({ reason: 'label unreadable' });
		const o = await order('sale', [['LATE', '2']]);
		expect(await said(o.code)).toEqual(['stop: Lot D-1 needs an expiry date at shipment. Type it from the label.']);
		const [pick] = (await sheetState(db.sql, o.code)).lines[0].cells[0].picks;
		const choose = (expiresOn: string) => type(o.code, { mark: pick.mark, place: pick.place, qty: '2', expiresOn });
		await choose('31.02.2029');
		expect((await said(o.code))[0]).toContain('Lot D-1, expiry: There is no 31.02.2029 in the calendar');
		const [wrong] = (await sheetState(db.sql, o.code)).lines[0].cells[0].picks;
		await removeRows(db.sql, o, [wrong.id]);
		await choose('31 Jan 2199');
		expect(await said(o.code)).toEqual([]);
		await bookNow(o.code);
		expect((await markPage(db.sql, await markOf('D-1')))!.expiresOn).toBe('2199-01-31');
		await expect(
			bookTest(db.sql, {
				kind: 'shipment',
				partner: 'C',
				movements: [{ item: 'LATE', lot: 'D-1', qty: 1, from: 'QS/A1', to: '@customer', expiresOn: '2198-01-01' }]
			})
		).rejects.toThrow('recorded to expire 31 Jan 2199');
	});
});

describe('facts that programs give', () => {
	const receipt = (lot: string, facts: Record<string, unknown>, more: object = {}) =>
		bookTest(db.sql, {
			kind: 'receipt',
			movements: [
				{ item: 'ACID', lot, qty: 1, from: '@supplier', to: 'QS/A1', expiresOn: '2199-01-01', facts: facts as never }
			],
			...more
		});
	it.each([
		['required and missing', { CERT: 'x' }, 'Lot P-1: Temperature is missing'],
		['asked and missing', { TEMP: 4 }, 'Certificate no. is not given'],
		['outside its limits', { TEMP: 31, CERT: 'x' }, 'outside 2 to 8'],
		['no number', { TEMP: 'warm', CERT: 'x' }, 'is not a number'],
		['unknown', { TEMP: 4, CERT: 'x', NOPE: '1' }, 'There is no fact NOPE'],
		['a file that is not here', { TEMP: 4, CERT: 'x', COA: `${'b'.repeat(64)} x.pdf` }, 'The file x.pdf is not here']
	])('%s: refused, named, and nothing is booked', async (_n, facts, why) => {
		await expect(receipt('P-1', facts)).rejects.toThrow(why);
		expect(await db.sql`SELECT 1 FROM mark WHERE number = 'P-1'`).toHaveLength(0);
	});
	it('are refused where there is no number to keep them with', async () => {
		await createItem(db.sql, 'ines', { code: 'CAPS', name: 'Caps', unit: 'each', tracking: 'none' });
		await expect(
			bookTest(db.sql, {
				kind: 'receipt',
				movements: [{ item: 'CAPS', qty: 1, from: '@supplier', to: 'QS/A1', facts: { TEMP: 4 } }]
			})
		).rejects.toThrow('no lot or serial here');
	});
	it('of a piece stay with the piece, those of the lot with its lot', async () => {
		await bookTest(db.sql, {
			kind: 'receipt',
			movements: [
				{
					item: 'METER',
					lot: 'ML',
					serial: 'M-1',
					qty: 1,
					from: '@supplier',
					to: 'QS/A1',
					supplierSerial: 'THEIRS-77',
					facts: { CAL: '2026-03-03', CERT: 'C-9' }
				}
			]
		});
		expect((await markPage(db.sql, await markOf('M-1')))!).toMatchObject({
			supplierSerial: 'THEIRS-77',
			facts: [{ code: 'CAL', value: '3 Mar 2026' }]
		});
		expect((await markPage(db.sql, await markOf('ML')))!.facts).toMatchObject([{ code: 'CERT', value: 'C-9' }]);
		expect((await find(db.sql, 'theirs-77')).hits).toMatchObject([{ what: 'serial', label: 'M-1' }]);
		// Moved later by its serial alone, the lot's fact still goes to the lot.
		await bookTest(db.sql, {
			kind: 'move',
			movements: [{ item: 'METER', serial: 'M-1', qty: 1, from: 'QS/A1', to: 'QS/B1', facts: { TEMP: 3 } }]
		});
		expect((await markPage(db.sql, await markOf('ML')))!.facts.map((f) => f.code).sort()).toEqual(['CERT', 'TEMP']);
	});
	it('warranty counts from shipment', async () => {
		expect((await markPage(db.sql, await markOf('M-1')))!.warranty).toBe('');
		await book(db.sql, ines, {
			key: randomUUID(),
			kind: 'shipment',
			at: new Date().toISOString(),
			partner: 'C',
			movements: [{ item: 'METER', serial: 'M-1', qty: 1, from: 'QS/B1', to: '@customer' }]
		});
		expect((await markPage(db.sql, await markOf('M-1')))!.warranty).toMatch(
			/^until \d+ \w+ \d{4} \(shipped .* \+ 24 months\)$/
		);
	});
});

describe('a fact recorded later', () => {
	const record = (code: string, value: string, reason = '', mark = 'F-1') =>
		markOf(mark).then((id) => recordFact(db.sql, ines, { key: randomUUID(), mark: id, code, value, reason }));
	it('is an event of its own, with who and when', async () => {
		const { id } = await record('CERT', 'C-77');
		const page = (await markPage(db.sql, await markOf('F-1')))!;
		expect(page.facts.find((f) => f.code === 'CERT')).toMatchObject({ value: 'C-77', by: 'ines', event: id });
		expect(page.facts.find((f) => f.code === 'COA')!.event).not.toBe(id);
	});
	it.each([
		['the same value', () => record('CERT', 'C-77'), 'is C-77 already'],
		['another value without a reason', () => record('CERT', 'C-78'), 'recorded as C-77. Say why'],
		['outside its limits without a reason', () => record('TEMP', '99'), 'outside 2 to 8'],
		['none', () => record('TEMP', 'warm'), 'is not a number'],
		['of an unknown fact', () => record('NOPE', '1'), 'There is no field NOPE'],
		['a file that is not here', () => record('COA', `${'c'.repeat(64)} y.pdf`, 'newer'), 'The file y.pdf is not here']
	])('%s: refused, and nothing is written', async (_n, act, why) => {
		const [{ last }] = await db.sql<{ last: string }[]>`SELECT max(id) AS last FROM event`;
		await expect(act()).rejects.toThrow(why);
		expect((await db.sql`SELECT max(id) AS last FROM event`)[0].last).toBe(last);
	});
	it('the same key again records nothing twice', async () => {
		const input = { key: 'fact-once', mark: await markOf('F-2'), code: 'CERT', value: 'C-5' };
		const first = await recordFact(db.sql, ines, input);
		expect(await recordFact(db.sql, ines, input)).toEqual({ ...first, again: true });
	});
});

describe('the ledger', () => {
	it('holds facts as it holds everything: sealed, and never changed past an event', async () => {
		expect(await findingsOf(db.sql)).toEqual([]);
		const id = await markOf('S-2');
		await expect(db.owner`UPDATE mark SET facts = facts || '{"TEMP": "5"}' WHERE id = ${id}`).rejects.toThrow(
			'changes only by an event'
		);
		await expect(db.owner`UPDATE mark SET supplier_serial = 'x' WHERE id = ${id}`).rejects.toThrow(
			'changes only by an event'
		);
	});
	it('finds and names an event whose facts somebody changed underneath', async () => {
		const id = await markOf('S-2');
		const [{ event }] = await db.sql<{ event: string }[]>`SELECT event_id AS event FROM mark WHERE id = ${id}`;
		const tamper = async (facts: string) => {
			await db.owner`ALTER TABLE mark DISABLE TRIGGER guard_mark`;
			await db.owner`UPDATE mark SET facts = facts || ${facts}::text::jsonb WHERE id = ${id}`;
			await db.owner`ALTER TABLE mark ENABLE TRIGGER guard_mark`;
		};
		await tamper('{"TEMP": "4"}');
		expect((await findingsOf(db.sql)).map((f) => f.what).join()).toContain(`event ${event}`);
		await tamper('{"TEMP": "31"}');
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});

describe('how strongly a check is taken', () => {
	it.each([
		['stop', 'It cannot be booked like this.'],
		['reason', 'Say why it is taken in, or send it back.'],
		['note', null]
	] as const)('%s, by the firm’s policy', async (strength, sentence) => {
		await savePolicy(db.sql, 'ines', { expired: strength });
		expect((await readPolicy(db.sql)).expired).toBe(strength);
		await createItem(db.sql, 'ines', {
			code: 'DATED',
			name: 'Dated',
			unit: 'kg',
			tracking: 'lot',
			expiry: 'required'
		}).catch(() => null);
		const o = await order('purchase', [['DATED', '1']]);
		await type(o.code, { lot: `OLD-${strength}`, qty: '1', expiresOn: '2020-01-01' });
		expect(await said(o.code)).toEqual(
			sentence ? [`${strength}: Lot OLD-${strength} expired on 1 Jan 2020. ${sentence}`] : []
		);
	});
	it('of a check that is none is refused', () =>
		expect(savePolicy(db.sql, 'ines', { nonsense: 'note' })).rejects.toThrow());
});
