import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import type { Sql } from '../src/lib/server/database/connect.ts';
import type { Mode, SheetState } from '../src/lib/core/sheet/sheet.ts';
import type { Actor } from '../src/lib/core/ledger/input.ts';
import { addDuration, isoWeek } from '../src/lib/core/dates/dates.ts';
import { add, sub } from '../src/lib/core/quantity/quantity.ts';
import { book } from '../src/lib/server/ledger/book.ts';
import { correct } from '../src/lib/server/ledger/corrections.ts';
import { recordFact, setStatus } from '../src/lib/server/ledger/changes.ts';
import { documentKind, type Kind } from '../src/lib/core/document/kinds.ts';
import { dayIn } from '../src/lib/core/time/clock.ts';
import { createDocument } from '../src/lib/server/document/create.ts';
import { saveRows, type RowData } from '../src/lib/server/sheet/drafts.ts';
import { bookSheet, sheetState } from '../src/lib/server/sheet/state.ts';
import { getOrder } from '../src/lib/server/document/orders.ts';
import { hashPassword } from '../src/lib/server/people/passwords.ts';
import { pdfs } from '../src/lib/server/pdf/fonts.ts';
import { saveWitness } from '../src/lib/server/mail/witness.ts';
import { addNote, storeFile } from '../src/lib/server/register/attachments.ts';
import { rebuildUnit } from '../src/lib/server/unit/rebuild.ts';
import type { Act } from '../src/lib/core/floor/moves.ts';
import { setRoute } from '../src/lib/server/floor/routes.ts';
import { addTag, tagOf } from '../src/lib/server/floor/reader.ts';
import { takeStep } from '../src/lib/server/floor/steps.ts';
import { saveFact } from '../src/lib/server/setup/facts.ts';
import { saveKind } from '../src/lib/server/setup/kinds.ts';
import { cardsOf, drawForCards, findMade } from '../src/lib/server/production/cards.ts';
import { bookReviewed } from '../src/lib/server/production/review.ts';
import { findStation, scanAtStation } from '../src/lib/server/production/station.ts';
import { saveStation } from '../src/lib/server/setup/stations.ts';
import { changeItem, createItem, listItems, setPicture } from '../src/lib/server/setup/items.ts';
import { addJob } from '../src/lib/server/setup/jobs.ts';
import { addPartner, addPlace, savePartner, setPlaceUse } from '../src/lib/server/setup/places.ts';
import { savePattern } from '../src/lib/server/numbering/patterns.ts';
import { facts, items, jobs, kinds, partners, PASSWORD, patterns, people, pictures, places, ways } from './firm.ts';
import { numberStock } from '../src/lib/server/stock/number.ts';
import { makePromises } from '../src/lib/server/document/promises.ts';
import { note } from '../src/lib/server/document/noted.ts';
import { sign } from '../src/lib/server/outbound/signature.ts';
import { saveFirm } from '../src/lib/server/setup/firm.ts';
import { setTodo } from '../src/lib/server/document/todo.ts';
import { scanInto } from '../src/lib/server/sheet/scan.ts';
import { bookCount, countState, makeCount, takeCount } from '../src/lib/server/stock/count.ts';
import { saveWay } from '../src/lib/server/setup/ways.ts';

/** What the demo firm's customers sign. */
const TERMS = `1. Goods stay ours until they are paid.
2. A meter is calibrated before it leaves; its number is chosen then and stands on the delivery note.
3. The warranty of each line counts from the day on which the goods are handed over.`;
/** A name written by hand, as a pen leaves it. */
const HAND = [0, 1, 2].map((word) =>
	Array.from({ length: 40 }, (_, i) => ({
		x: 40 + word * 150 + i * 3.4,
		y: 95 + 34 * Math.sin(i * (0.5 + word * 0.14)) * Math.exp(-i / 60)
	}))
);
type Rows = Record<string, RowData[]>;
const actor = (login: string): Actor => ({ ...people.find((p) => p.login === login)!, name: login, source: 'screen' });

/** People of the demo firm; they may sign in at once. */
async function seedPeople(sql: Sql) {
	const hash = await hashPassword(PASSWORD);
	for (const p of people)
		await sql`INSERT INTO person (login, name, role, password_hash) VALUES (${p.login}, ${p.name}, ${p.role}, ${hash}) ON CONFLICT DO NOTHING`;
}

/**
 * Books the demo firm's story up to now, through the same functions as real work: orders, sheets, bookings.
 * Does nothing when items are there already.
 */
export async function seedStory(sql: Sql, now = new Date()): Promise<boolean> {
	if ((await sql`SELECT 1 FROM item LIMIT 1`).length) return false;
	await seedPeople(sql);
	for (const [code, name] of places) await addPlace(sql, 'ines', { code, name, dock: code.endsWith('/DOCK') });
	await setPlaceUse(sql, 'ines', 'ND/OUT', 'staging', true);
	for (const [code, name, kind] of partners) await addPartner(sql, 'ines', { code, name, kind });
	for (const pattern of patterns) await savePattern(sql, 'ines', pattern);
	for (const fact of facts) await saveFact(sql, 'ines', fact);
	for (const kind of kinds) await saveKind(sql, 'ines', kind);
	for (const item of items) await createItem(sql, 'ines', item);
	for (const job of jobs) await addJob(sql, 'ines', job);
	for (const way of ways) await saveWay(sql, 'ines', way, true);
	for (const [item, file] of Object.entries(pictures)) {
		const bytes = readFileSync(new URL(`./pictures/${file}`, import.meta.url));
		await setPicture(sql, 'ines', item, (await storeFile(sql, 'ines', { name: file, bytes })).sha256);
	}
	const story = new Story(sql, now);
	await story.tell();
	// The numbers of the past were typed; the patterns go on from there.
	for (const pattern of patterns) {
		const start = story.next(pattern.code);
		if (start) await savePattern(sql, 'ines', { ...pattern, start }, pattern.code);
	}
	await story.goOn();
	await saveWitness(sql, 'ines', 'ledger@thornmere-utilities.example');
	return true;
}

class Story {
	private n = {
		PO: 2000,
		MO: 400,
		SO: 3000,
		JI: 10,
		RP: 10,
		TR: 5,
		AI: 1,
		AO: 1,
		CS: 1,
		VB: 7400,
		PE: 260,
		WM: 60,
		FK: 20,
		RT: 101,
		SR: 12,
		CN: 101,
		CERT: 40
	};
	private sql: Sql;
	private now: Date;
	constructor(sql: Sql, now: Date) {
		this.sql = sql;
		this.now = now;
	}

	/** The next running number of what is counted under this name; undefined when nothing is. */
	next = (name: string): number | undefined => (this.n as Record<string, number>)[name];

	/** So many days ago, at an hour of the working day. */
	private ago(days: number, hour = 9): Date {
		const d = new Date(this.now.getTime() - days * 86_400_000);
		d.setUTCHours(hour, Math.round((days * 7) % 50), 0, 0);
		return d > this.now ? new Date(this.now.getTime() - 60_000) : d;
	}
	private week(at: Date): string {
		const { year, week } = isoWeek(at.toISOString().slice(0, 10));
		return `${String(year).slice(2)}W${String(week).padStart(2, '0')}`;
	}
	private serials(kind: 'VB' | 'PE' | 'WM' | 'FK', count: number): RowData {
		const first = `${kind}-${String(this.n[kind]).padStart(4, '0')}`;
		this.n[kind] += count;
		return { serial: first, count };
	}
	private code = (kind: Kind) => {
		const prefix = documentKind(kind).prefix as 'PO' | 'MO' | 'SO' | 'JI' | 'RP' | 'TR' | 'AI' | 'AO' | 'RT' | 'SR';
		return `${prefix}-${this.n[prefix]++}`;
	};
	private day = (at: Date) => at.toISOString().slice(0, 10);

	/** Makes an order and books it at a time, with rows typed in and the rest as suggested. */
	private async order(
		who: string,
		at: Date,
		order: {
			kind: Kind;
			partner?: string;
			job?: string;
			place?: string;
			lines: [string, string][];
			note?: string;
			code?: string;
			from?: string;
			to?: string;
			way?: string;
			reason?: string;
			theirs?: boolean;
		},
		rows: Rows = {},
		bookIt: { mode?: Mode; reason?: string } | false = {}
	): Promise<string> {
		const code = await createDocument(this.sql, 'ines', {
			code: order.code ?? this.code(order.kind),
			kind: order.kind,
			partner: order.partner,
			job: order.job,
			place: order.place,
			dueOn: this.day(at),
			note: order.note,
			from: order.from,
			to: order.to,
			way: order.way,
			reason: order.reason,
			theirs: order.theirs,
			lines: order.lines.map(([item, qty]) => ({ item, qty }))
		});
		await this.type(who, code, rows);
		if (bookIt) await this.book(who, code, at, bookIt);
		return code;
	}
	/** Promises what is suggested to a line of an order. */
	private async promise(who: string, code: string, no: number) {
		const { lines } = await sheetState(this.sql, code);
		const { id: line, cells } = lines[no - 1];
		const picks = cells.flatMap((c) => c.picks.map(({ mark, qty }) => ({ mark, qty })));
		await makePromises(this.sql, actor(who), (await getOrder(this.sql, code))!, {
			key: `promise ${code} ${no}`,
			line,
			picks
		});
	}
	/** What a chemical's papers say when it arrives. */
	private async papers(rows: Rows): Promise<Rows> {
		this.coa ??= await sampleCertificate(this.sql);
		const papers = (d: RowData) => ({
			...d,
			facts: { CERT: `CoA-${1000 + this.n.CERT++}`, TEMP: (4 + (this.n.CERT % 9)).toFixed(1), COA: this.coa! }
		});
		return Object.fromEntries(Object.entries(rows).map(([item, all]) => [item, all.map(papers)]));
	}
	private coa: string | null = null;
	private async type(who: string, code: string, rows: Rows) {
		const order = (await getOrder(this.sql, code))!;
		const list = Object.entries(rows).flatMap(([item, all]) =>
			all.map((data) => ({ id: randomUUID(), lineId: order.lines.find((l) => l.item === item)!.id, version: 0, data }))
		);
		if (list.length) await saveRows(this.sql, who, order, list);
	}
	private async book(
		who: string,
		code: string,
		at: Date,
		{ mode = 'both', reason }: { mode?: Mode; reason?: string } = {}
	) {
		const clock = () => at;
		let sheet = await sheetState(this.sql, code, mode, { clock });
		if (await this.look(who, sheet)) sheet = await sheetState(this.sql, code, mode, { clock });
		const key = `demo ${code} ${at.toISOString()}`;
		await bookSheet(this.sql, actor(who), code, { key, stamp: sheet.stamp, mode, reason }, clock);
	}
	/**
	 * Looks at what is booked, as somebody with a scanner does: which serials go into which units, and what is suggested.
	 * Of ten suggestions one is taken without a look, and of ten rows one is typed.
	 */
	private async look(who: string, sheet: SheetState): Promise<boolean> {
		const order = (await getOrder(this.sql, sheet.code))!;
		const rows = sheet.lines.flatMap((l) =>
			l.cells.flatMap((c) => [
				...c.offers.map(({ mark, place }) => ({ lineId: l.id, data: { mark, place, qty: '1', unit: c.unit! } })),
				...c.picks
					.filter((p) => !p.id)
					.map((p) => ({
						lineId: l.id,
						data: {
							...{ mark: p.mark, place: p.place, qty: p.qty },
							...(c.unit ? { unit: c.unit } : {}),
							...(this.looked++ % 10 ? {} : { accepted: true as const })
						}
					}))
			])
		);
		if (rows.length)
			await saveRows(
				this.sql,
				who,
				order,
				rows.map((r) => ({ ...r, id: randomUUID(), version: 0 }))
			);
		await this.sql`
			UPDATE draft_row SET data = data || jsonb_build_object('scanned', '0-' || coalesce((data ->> 'count')::int, 1) - 1)
			WHERE order_id = ${order.id} AND NOT data ? 'accepted' AND NOT data ? 'now' AND (data ? 'mark' OR (${this.looked++}::int % 10 > 0))`;
		return true;
	}
	private looked = 1;
	private async correct(item: string, number: string, at: Date, field: string, value: string, reason: string) {
		const mark = await this.markId(item, number);
		const key = `demo correct ${number}`;
		await correct(this.sql, actor('ines'), { key, mark, field, value, reason, at: at.toISOString() });
	}
	private async markId(item: string, number: string): Promise<string> {
		const [m] = await this.sql<
			{ id: string }[]
		>`SELECT k.id FROM mark k JOIN item i ON i.id = k.item_id WHERE i.code = ${item} AND k.number = ${number}`;
		return m.id;
	}
	private async onHand(item: string, number: string): Promise<{ place: string; qty: string }> {
		const [b] = await this.sql<{ place: string; qty: string }[]>`
			SELECT p.code AS place, trim_scale(b.qty)::text AS qty FROM balance b JOIN mark k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id JOIN place p ON p.id = b.place_id
			WHERE i.code = ${item} AND k.number = ${number} AND b.qty > 0 AND NOT b.virtual LIMIT 1`;
		return b;
	}

	async tell() {
		for (let month = 12; month >= 1; month--) await this.month(month * 30 + 4, month);
		await this.todaysWork();
	}

	/** One month of ordinary trade, beginning so many days ago. */
	private async month(start: number, month: number) {
		const at = (offset: number, hour = 9) => this.ago(start - offset, hour);
		const w = this.week(at(0));
		const until = (months: number, from = at(0)) => addDuration(this.day(from), `P${months}M`);
		const dpd = month === 6 ? 'QR-26-0417' : `QR-${w}-D`;

		await this.order(
			'tobi',
			at(0, 8),
			{
				kind: 'purchase',
				partner: 'QUILLMERE',
				place: 'QS/A1',
				lines: [
					['DPD', '1000'],
					['KI', '4'],
					['BUFFER-SALT', '50']
				]
			},
			await this.papers({
				DPD: [{ lot: dpd, qty: '1000', expiresOn: until(18), supplierLot: month === 6 ? '88-1302' : undefined }],
				KI: [{ lot: `QK-${w}`, qty: '4', expiresOn: until(24) }],
				// A year's salt would expire unseen; the last deliveries are the ones that matter today.
				'BUFFER-SALT': [
					{ lot: `QB-${w}-1`, qty: '25', expiresOn: until(month === 5 ? 6 : 14) },
					{ lot: `QB-${w}-2`, qty: '25', expiresOn: until(16) }
				]
			})
		);
		await this.order(
			'tobi',
			at(0, 10),
			{
				kind: 'purchase',
				partner: 'OSTREL',
				place: 'QS/A2',
				lines: [
					['BOTTLE-30', '1500'],
					['BOTTLE-50', '600'],
					['MEMBRANE', '16']
				]
			},
			{
				'BOTTLE-30': [
					{ lot: `OB-${w}-A`, qty: '800' },
					{ lot: `OB-${w}-B`, qty: '700' }
				],
				'BOTTLE-50': [{ lot: `OF-${w}`, qty: '600' }],
				MEMBRANE: [{ lot: `OM-${w}`, qty: '16' }]
			}
		);
		const boards = { lot: `26${w.slice(2)}-A`.replace('26W', `${w.slice(0, 2)}W`), ...this.serials('VB', 14) };
		await this.order(
			'tobi',
			at(1, 8),
			{
				kind: 'purchase',
				partner: 'VARNHOLT',
				place: 'QS/A4',
				lines: [
					['BOARD', '14'],
					['CELL', '40']
				]
			},
			{ BOARD: [boards], CELL: [{ lot: `C-${w}`, qty: '40' }] }
		);
		await this.order(
			'tobi',
			at(1, 11),
			{
				kind: 'purchase',
				partner: 'DUNMARROW',
				place: 'QS/A3',
				lines: [
					['CAP', '2000'],
					['CASE', '12']
				]
			},
			{ CAP: [{ qty: '2000' }], CASE: [{ lot: month === 2 ? `CD-${w}` : `DC-${w}`, qty: '12' }] }
		);
		if (month === 2)
			await this.correct(
				'CASE',
				`CD-${w}`,
				at(2, 15),
				'number',
				`DC-${w}`,
				'Letters swapped when typed; the label says DC'
			);
		if (month === 3)
			await this.correct(
				'KI',
				`QK-${w}`,
				at(3, 15),
				'expiresOn',
				until(22),
				'Read from the certificate, not from the label'
			);
		await this.order(
			'tobi',
			at(2, 9),
			{ kind: 'purchase', partner: 'QUILLMERE', place: 'QS/COLD', lines: [['GEL', '45']] },
			await this.papers({
				GEL:
					month === 4
						? [
								{ lot: 'G-0931', qty: '15', expiresOn: until(9) },
								{ lot: 'G-0932', qty: '30', expiresOn: until(10) }
							]
						: [{ lot: `G-${w}`, qty: '45', expiresOn: until(12) }]
			})
		);

		await this.reagents(at, w, month);

		// Probes, meters, kits: one run for each piece.
		const count = month === 1 ? 24 : 12;
		const probes = this.serials('PE', count);
		await this.order(
			'rhea',
			at(7),
			{ kind: 'production', place: 'QS/LINE2', lines: [['PE', String(count)]] },
			{ PE: [probes] }
		);
		const meters = this.serials('WM', 12);
		await this.order('rhea', at(9), { kind: 'production', place: 'QS/LINE2', lines: [['WM', '12']] }, { WM: [meters] });
		if (month === 4) await this.sellDrifting(at(10));
		const kits = this.serials('FK', 8);
		await this.order('rhea', at(12), { kind: 'production', place: 'QS/A6', lines: [['FK', '8']] }, { FK: [kits] });

		await this.sales(at, month);
	}

	/** Bulks, then bottles. Of the suspect DPD lot: two bulks, the second blended, and five bottle lots. */
	private async reagents(at: (offset: number, hour?: number) => Date, w: string, month: number) {
		const suspect = month === 6;
		const bulk = async (offset: number, no: number, litres: string, dpd?: [string, string][]) => {
			const rows: Rows = { 'CR-BULK': [{ lot: `CB-${w}-${no}`, qty: litres }] };
			if (dpd)
				rows.DPD = await Promise.all(
					dpd.map(async ([lot, qty]) => ({
						mark: await this.markId('DPD', lot),
						place: (await this.onHand('DPD', lot)).place,
						qty
					}))
				);
			await this.order(
				'rhea',
				at(offset),
				{ kind: 'production', place: `QS/TANK${no}`, lines: [['CR-BULK', litres]] },
				rows
			);
			return rows;
		};
		const fill = async (offset: number, no: number, bottles: number, from?: string) => {
			const rows: Rows = { 'CR-30': [{ lot: `CR-${w}-${no}`, qty: String(bottles) }] };
			if (from)
				rows['CR-BULK'] = [
					{
						mark: await this.markId('CR-BULK', from),
						place: (await this.onHand('CR-BULK', from)).place,
						qty: String((bottles * 30) / 1000)
					}
				];
			await this.order(
				'rhea',
				at(offset, 10 + no),
				{ kind: 'production', place: 'QS/A5', lines: [['CR-30', String(bottles)]] },
				rows
			);
		};
		if (suspect) {
			await bulk(3, 1, '20', [['QR-26-0417', '400']]);
			const [other] = await this.sql<{ number: string }[]>`
				SELECT k.number FROM mark k JOIN item i ON i.id = k.item_id AND i.code = 'DPD' JOIN balance b ON b.mark_id = k.id AND b.qty > 150 AND NOT b.virtual
				WHERE k.number <> 'QR-26-0417' ORDER BY k.id LIMIT 1`;
			await bulk(4, 2, '16', [
				['QR-26-0417', '220'],
				[other.number, '100']
			]);
			for (const [no, from] of [
				[1, 1],
				[2, 1],
				[3, 1],
				[4, 2],
				[5, 2]
			])
				await fill(5, no, 120, `CB-${w}-${from}`);
		} else {
			if (month !== 5) await bulk(3, 1, month === 1 ? '30' : '13');
			await fill(5, 1, 420);
			if (month === 1) await fill(6, 2, 500);
		}
		await this.order(
			'rhea',
			at(4, 13),
			{ kind: 'production', place: 'QS/TANK3', lines: [['PH7-BULK', '30']] },
			{ 'PH7-BULK': [{ lot: `PB-${w}`, qty: '30' }] }
		);
		await this.order(
			'rhea',
			at(6, 14),
			{ kind: 'production', place: 'QS/A5', lines: [['PH7-50', '500']] },
			{ 'PH7-50': [{ lot: `PH-${w}`, qty: '500' }] }
		);
		if (suspect)
			for (const no of [2, 4])
				await book(this.sql, actor('tobi'), {
					key: `demo depot ${no}`,
					kind: 'transfer',
					at: at(8).toISOString(),
					document: 'TR-118',
					movements: [{ item: 'CR-30', lot: `CR-${w}-${no}`, qty: '40', from: 'QS/A5', to: 'ND/B4' }]
				});
	}

	private async sales(at: (offset: number, hour?: number) => Date, month: number) {
		const customers = ['THORNMERE', 'SKEN', 'BRANDLEMOUTH', 'LINDOW', 'CARRAWAY'];
		const who = (n: number) => customers[(month + n) % 5];
		for (let n = 0; n < 6; n++)
			await this.order('tobi', at(14 + n), { kind: 'sale', partner: who(n), place: 'QS', lines: [['FK', '1']] });
		for (let n = 0; n < 3; n++)
			await this.order('tobi', at(15 + n * 3, 14), {
				kind: 'sale',
				partner: who(n + 1),
				place: 'QS',
				lines: [
					['CR-30', String(90 + 30 * n)],
					['PH7-50', String(60 + 20 * n)]
				]
			});
		if (month % 2 === 0)
			await this.order('tobi', at(20), { kind: 'sale', partner: who(2), place: 'QS', lines: [['WM', '3']] });
		else await this.order('tobi', at(20), { kind: 'sale', partner: who(3), place: 'QS', lines: [['WM', '2']] });
		if (month <= 9) await this.comesBack(at(26), month);
	}

	/** The six meters with gel G-0931 go to two customers; they share their board lot with many good ones. */
	private async sellDrifting(at: Date) {
		const meters = await this.sql<{ id: string; number: string }[]>`
			SELECT w.id, w.number FROM run r JOIN mark w ON w.id = r.unit_mark JOIN movement u ON u.run_id = r.id AND u.role = 'use'
			JOIN run pr ON pr.unit_mark = u.mark_id JOIN movement g ON g.run_id = pr.id AND g.role = 'use' JOIN mark gel ON gel.id = g.mark_id AND gel.number = 'G-0931'
			ORDER BY w.number`;
		for (const [partner, part] of [
			['SKEN', meters.slice(0, 3)],
			['LINDOW', meters.slice(3, 6)]
		] as const)
			await this.order(
				'tobi',
				at,
				{ kind: 'sale', partner, place: 'QS', lines: [['WM', '3']] },
				{ WM: part.map((m) => ({ mark: m.id, place: 'QS/LINE2', qty: '1' })) }
			);
		this.drifting = meters.map((m) => m.number);
	}
	private drifting: string[] = [];

	/** A kit or a meter comes back from a customer. */
	private async comesBack(at: Date, month: number) {
		if (month === 2)
			for (const [partner, part] of [
				['SKEN', this.drifting.slice(0, 3)],
				['LINDOW', this.drifting.slice(3)]
			] as const)
				for (const number of part) await this.returned('WM', number, partner, at, 'reads too high');
		const item = month % 2 ? 'FK' : 'WM';
		const gone = await this.sql<{ number: string; partner: string }[]>`
			SELECT k.number, q.code AS partner FROM balance b JOIN place p ON p.id = b.place_id AND p.code = '@customer' JOIN mark k ON k.id = b.mark_id
			JOIN item i ON i.id = k.item_id AND i.code = ${item} JOIN movement m ON m.mark_id = k.id AND m.to_place = p.id JOIN event e ON e.id = m.event_id JOIN partner q ON q.id = e.partner_id
			WHERE b.qty > 0 ORDER BY m.at DESC, k.id LIMIT 1`;
		for (const g of gone) await this.returned(item, g.number, g.partner, at, 'sent back, cause open');
	}
	/** What comes back is held until somebody has looked at it (common practice); it was credited meanwhile. */
	private async returned(item: string, number: string, partner: string, at: Date, found: string) {
		const back = { mark: await this.markId(item, number), place: '@customer', qty: '1', goes: 'hold' as const, found };
		const code = await this.order(
			'tobi',
			at,
			{ kind: 'return', partner, place: 'QS/QC', reason: 'Faulty', lines: [[item, '1']] },
			{ [item]: [back] }
		);
		await this.tick('tobi', code, `CN-${this.n.CN++}`, new Date(at.getTime() + 2 * 86_400_000));
	}
	/** The glass store was counted a month ago, all but right; the cold store two weeks ago; today somebody counts a shelf, and three things differ. */
	private async counts() {
		const all = async (code: string, at: Date, differ: (n: number, expected: string) => string, most = Infinity) => {
			const places = (await countState(this.sql, code, null)).places;
			let n = 0;
			for (const { code: place } of places)
				for (const r of (await countState(this.sql, code, place)).rows) {
					if (n >= most) return;
					const [{ qty }] = await this.sql<{ qty: string }[]>`
						SELECT trim_scale(b.qty)::text AS qty FROM balance b JOIN place p ON p.id = b.place_id AND p.code = ${place} WHERE b.mark_id = ${r.mark}`;
					const counted = r.kind === 'serial' ? qty : differ(n, qty);
					await takeCount(this.sql, 'tobi', code, { id: randomUUID(), place, mark: r.mark!, qty: counted }, at);
					n++;
				}
		};
		const closed = async (place: string, at: Date, differ: (n: number, expected: string) => string, note: string) => {
			const code = await makeCount(this.sql, actor('ines'), { place, dueOn: this.day(at), note });
			await all(code, at, differ);
			const { stamp, differences } = await countState(this.sql, code, null, at);
			const reasons = Object.fromEntries(differences.map((d) => [d.key, 'Moved and not booked']));
			await bookCount(this.sql, actor('ines'), code, { key: `demo ${code}`, stamp, reasons }, at);
		};
		await closed('QS/A2', this.ago(33, 15), (n, q) => (n === 0 ? add(q, '1') : q), 'Glass and membranes.');
		await closed('QS/COLD', this.ago(15, 15), (_n, q) => q, 'Monthly, cold store.');
		const today = await makeCount(this.sql, actor('ines'), {
			...{ place: 'QS/A2', dueOn: this.day(this.now), note: 'Shelf A2 before the year ends.' }
		});
		await all(
			today,
			this.ago(0),
			(n, q) => (n === 1 ? sub(q, '3') : n === 2 ? add(q, '1') : n === 4 ? add(q, '2') : q),
			6
		);
	}
	/** Ticks off everything that stays to be done of a document. */
	private async tick(who: string, code: string, said: string, at: Date) {
		const order = (await getOrder(this.sql, code))!;
		for (const { id } of order.todos)
			await setTodo(this.sql, actor(who), order, { id, done: true, said }, at > this.now ? this.now : at);
	}
	/** The lot of an item that a customer has most of. */
	private async lotWith(partner: string, item: string): Promise<RowData> {
		const [lot] = await this.sql<{ mark: string }[]>`
			SELECT h.mark_id AS mark FROM customer_has h JOIN partner q ON q.id = h.partner_id AND q.code = ${partner} JOIN mark k ON k.id = h.mark_id JOIN item i ON i.id = k.item_id AND i.code = ${item}
			WHERE h.qty > 5 ORDER BY h.qty DESC, k.id LIMIT 1`;
		return { mark: lot.mark, place: '@customer' };
	}
	/** What is sold over the counter at Northgate, the last of it open; a meter that is signed and paid for and has no number yet. */
	private async sell() {
		await saveFirm(this.sql, 'ines', { terms: TERMS });
		// What lies at Northgate came yesterday in the morning, or back from a customer.
		const [buffer, chlorine] = ['PH7-50', 'CR-30'].map(
			async (item) =>
				(
					await this.sql<{ number: string }[]>`
						SELECT k.number FROM mark_now k JOIN item i ON i.id = k.item_id AND i.code = ${item} JOIN balance b ON b.mark_id = k.id AND b.qty > 3 JOIN place p ON p.id = b.place_id AND p.code LIKE 'ND/%' AND NOT p.staging
						WHERE k.status = 'released' AND k.expires_on > ${this.day(this.now)} ORDER BY k.number LIMIT 1`
				)[0].number
		);
		for (const [days, hour, partner, scans] of [
			[1, 10, 'CARRAWAY', [buffer, buffer, chlorine]],
			[1, 13, undefined, [buffer]],
			[1, 15, 'CARRAWAY', [buffer, buffer]],
			// Today's customer is looking for her purse.
			[0, 9, undefined, [buffer, chlorine]]
		] as const) {
			const at = this.ago(days, hour);
			const sale = { kind: 'counter', partner, place: 'ND', lines: [] } as const;
			const code = await this.order('tobi', at, { ...sale, lines: [] }, {}, false);
			for (const text of scans)
				await scanInto(this.sql, 'tobi', (await getOrder(this.sql, code))!, { id: randomUUID(), text: await text });
			if (days) await this.book('tobi', code, at);
		}
		const code = await createDocument(this.sql, 'ines', {
			...{ code: 'SO-3350', kind: 'sale', partner: 'LINDOW', place: 'QS', dueOn: this.day(this.now) },
			note: 'They chose it at the trade fair; which one it will be we choose when it is tested.',
			lines: [{ item: 'WM', qty: '1', warranty: 'P36M', price: '249.00 EUR' }]
		});
		const order = (await getOrder(this.sql, code))!;
		await sign(
			this.sql,
			actor('tobi'),
			order,
			{ meaning: 'terms', signer: 'Hanna Wick', strokes: HAND, withoutNumber: true },
			this.ago(2, 11)
		);
		const paid = { key: 'demo paid', what: 'payment', number: 'Transfer 80-4711', dated: this.day(this.ago(1)) };
		await note(this.sql, actor('ines'), order, paid, this.ago(1));
	}

	/** Straps came without numbers. They are lent out now, so each gets a serial: those at the depot have theirs, those at the works wait. */
	private async straps() {
		await createItem(this.sql, 'ines', { code: 'STRAP', name: 'Carrying strap', unit: 'each', tracking: 'none' });
		await book(this.sql, actor('tobi'), {
			...{
				key: 'demo straps',
				kind: 'receipt',
				at: this.ago(9, 10).toISOString(),
				partner: 'DUNMARROW',
				document: 'PO-1990'
			},
			movements: [
				{ item: 'STRAP', qty: '12', from: '@supplier', to: 'QS/A6' },
				{ item: 'STRAP', qty: '4', from: '@supplier', to: 'ND/B5' }
			]
		});
		const [{ name, rules }] = await listItems(this.sql, 'STRAP');
		await changeItem(this.sql, 'ines', 'STRAP', { name, rules, tracking: 'serial', parts: [] });
		const [depot, works] = await numberStock(this.sql, actor('ines'), 'STRAP');
		await this.type('ines', depot, { STRAP: [{ serial: 'ST-101', count: 4 }] });
		await this.book('ines', depot, this.ago(1, 16));
		await this.type('ines', works, { STRAP: [{ serial: 'ST-105', count: 7 }] });
	}

	/** What was shipped and received more than two weeks ago is invoiced, but for one line; and one invoice came before its goods. */
	private async invoices() {
		const moved = await this.sql<{ code: string; day: string; kind: Kind }[]>`
			SELECT o.code, o.kind, to_char(max(e.at), 'YYYY-MM-DD') AS day FROM orders o JOIN event e ON e.order_id = o.id WHERE o.kind IN ('sale', 'counter', 'purchase')
			GROUP BY o.id HAVING max(e.at) < ${this.ago(14)} ORDER BY o.id`;
		for (const [n, { code, day, kind }] of moved.entries()) {
			if (n % 61 === 40) continue;
			const number = kind === 'purchase' ? `R${7000 + n}` : `INV-${2600 + n}`;
			await note(this.sql, actor('ines'), (await getOrder(this.sql, code))!, {
				...{ key: `demo invoice ${code}`, what: 'invoice', number, dated: day }
			});
		}
	}

	/** Bottles that a customer had too many of, one of which broke; a delivery of glass went back; a box from a customer stands open on the bench. */
	private async goBack() {
		const bottles = await this.lotWith('SKEN', 'CR-30');
		const fine = await this.order(
			'tobi',
			this.ago(8, 13),
			{ kind: 'return', partner: 'SKEN', place: 'ND/DOCK', reason: 'Not needed', lines: [['CR-30', '5']] },
			{
				'CR-30': [
					{ ...bottles, qty: '4', goes: 'stock', found: 'Unopened, as new', to: 'ND/B3' },
					{ ...bottles, qty: '1', goes: 'scrap', found: 'Damaged' }
				]
			}
		);
		await this.tick('tobi', fine, 'CN-118', this.ago(6));
		const [glass] = await this.sql<{ mark: string; place: string }[]>`
			SELECT k.id AS mark, p.code AS place FROM balance b JOIN mark k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id AND i.code = 'BOTTLE-30' JOIN place p ON p.id = b.place_id
			WHERE b.qty > 200 AND NOT b.virtual ORDER BY k.id DESC LIMIT 1`;
		await this.order(
			'tobi',
			this.ago(3, 10),
			{
				...{ code: 'SR-11', kind: 'supplier-return', partner: 'OSTREL', place: 'QS', reason: 'Faulty on arrival' },
				...{ lines: [['BOTTLE-30', '120']], note: 'Necks chipped. Ostrel sends others.' }
			},
			{ 'BOTTLE-30': [{ ...glass, qty: '120' }] }
		);
		// Bottles that stay Ostrel's until they are used.
		await this.order(
			'tobi',
			this.ago(6, 10),
			{
				...{ code: 'PO-2198', kind: 'purchase', partner: 'OSTREL', place: 'QS/A5', theirs: true },
				...{ lines: [['BOTTLE-50', '240']], note: 'On consignment: invoiced as they are used.' }
			},
			{ 'BOTTLE-50': [{ lot: 'OF-CONS-1', qty: '240' }] }
		);
		await this.order(
			'tobi',
			this.ago(0),
			{
				...{ code: 'RT-130', kind: 'return', partner: 'LINDOW', place: 'QS/QC', reason: 'Faulty' },
				...{ lines: [], note: 'One box, no letter in it.' }
			},
			{},
			false
		);
		const units = await this.sql<{ number: string }[]>`
			SELECT k.number FROM customer_has h JOIN partner q ON q.id = h.partner_id AND q.code = 'LINDOW' JOIN mark k ON k.id = h.mark_id AND k.kind = 'serial' WHERE h.qty > 0 ORDER BY h.shipped_at DESC, k.id LIMIT 2`;
		for (const { number } of units)
			await scanInto(this.sql, 'tobi', (await getOrder(this.sql, 'RT-130'))!, { id: randomUUID(), text: number });
	}

	/** What waits today. */
	private async todaysWork() {
		const day = this.day(this.now);
		const due = this.now;
		const recent = this.week(this.ago(34));
		await this.order(
			'tobi',
			due,
			{
				code: 'PO-2214',
				kind: 'purchase',
				partner: 'VARNHOLT',
				place: 'QS/DOCK',
				lines: [
					['BOARD', '40'],
					['CELL', '100']
				],
				note: 'The boards come from two supplier lots.'
			},
			{},
			false
		);
		await this.order(
			'tobi',
			due,
			{
				code: 'PO-2215',
				kind: 'purchase',
				partner: 'QUILLMERE',
				place: 'QS/DOCK',
				lines: [
					['BUFFER-SALT', '50'],
					['GEL', '60']
				],
				note: 'Certificate of analysis comes with the salt.'
			},
			{},
			false
		);
		await this.order(
			'tobi',
			this.ago(-5),
			{
				code: 'PO-2216',
				kind: 'purchase',
				partner: 'OSTREL',
				place: 'QS/DOCK',
				lines: [
					['BOTTLE-30', '2000'],
					['MEMBRANE', '24']
				]
			},
			{},
			false
		);

		// Short-dated goods that nobody has used yet.
		await this.order(
			'tobi',
			this.ago(12),
			{
				kind: 'purchase',
				partner: 'QUILLMERE',
				place: 'QS/A1',
				lines: [
					['BUFFER-SALT', '10'],
					['KI', '2']
				],
				note: 'Short-dated, at half price.'
			},
			await this.papers({
				'BUFFER-SALT': [{ lot: 'QB-SHORT-1', qty: '10', expiresOn: addDuration(day, 'P17D') }],
				KI: [{ lot: 'QK-SHORT-1', qty: '2', expiresOn: addDuration(day, 'P9D') }]
			})
		);

		// A kit order half made: four of ten are out, one has its parts and waits for its case to be closed.
		const kits = await this.order(
			'rhea',
			due,
			{ code: 'MO-731', kind: 'production', place: 'QS/A6', lines: [['FK', '10']] },
			{ FK: [this.serials('FK', 4)] },
			false
		);
		await this.book('rhea', kits, this.ago(1, 14));
		await this.type('rhea', kits, { FK: [this.serials('FK', 1)] });
		await this.book('rhea', kits, this.ago(1, 16), { mode: 'use' });
		await this.order(
			'rhea',
			due,
			{ code: 'MO-732', kind: 'production', place: 'QS/TANK2', lines: [['CR-BULK', '40']] },
			{},
			false
		);
		await this.order(
			'rhea',
			due,
			{ code: 'MO-733', kind: 'production', place: 'QS/LINE2', lines: [['WM', '6']] },
			{},
			false
		);

		await this.order(
			'tobi',
			due,
			{
				code: 'SO-3344',
				kind: 'sale',
				way: 'ROAD',
				partner: 'THORNMERE',
				place: 'QS',
				lines: [
					['FK', '2'],
					['CR-30', '240']
				],
				note: 'Thornmere takes reagent with at least nine months left only.'
			},
			{},
			false
		);
		await this.order(
			'tobi',
			due,
			{
				code: 'SO-3347',
				kind: 'sale',
				partner: 'THORNMERE',
				place: 'QS',
				lines: [['CELL', '20']],
				note: 'To go with their kits.'
			},
			{},
			false
		);
		await this.order(
			'tobi',
			due,
			{
				code: 'SO-3345',
				kind: 'sale',
				partner: 'SKEN',
				place: 'QS',
				lines: [
					['WM', '4'],
					['PH7-50', '120']
				]
			},
			{},
			false
		);
		// Material for jobs: the harbour's survey has most of its own, the laboratory waits for its reagents.
		await this.order('tobi', this.ago(6, 10), {
			kind: 'issue',
			job: 'HARBOUR',
			place: 'QS',
			lines: [
				['WM', '2'],
				['CR-30', '24']
			]
		});
		await this.order(
			'tobi',
			due,
			{
				code: 'JI-21',
				kind: 'issue',
				job: 'LAB',
				place: 'QS',
				lines: [
					['KI', '0.5'],
					['PH7-50', '12']
				],
				note: 'For the yearly check of the laboratory’s own meters.'
			},
			{},
			false
		);
		await setStatus(this.sql, actor('oskar'), {
			key: 'demo hold',
			act: 'hold',
			mark: await this.markId('CR-30', `CR-${recent}-1`),
			reason: 'Turbid on the retained sample',
			at: this.ago(1, 11).toISOString()
		});
		// Thornmere rings for its kits now and then: they are kept for it.
		await this.promise('tobi', 'SO-3344', 1);
	}

	/** From now on meters get their serials when their order is released: one is; and which membrane goes in is scanned. */
	async goOn() {
		// What stood in a note is asked from now on: at least nine months left of what goes to Thornmere.
		await savePartner(this.sql, 'ines', 'THORNMERE', {
			name: 'Thornmere Utilities',
			kind: 'customer',
			minimumDaysLeft: 270
		});
		const [membrane] = await listItems(this.sql, 'MEMBRANE');
		await changeItem(this.sql, 'ines', 'MEMBRANE', {
			name: membrane.name,
			gtin: membrane.gtin,
			parts: [],
			rules: membrane.rules.map((r) => (r.step === 'production use' ? { ...r, evidence: 'scanned' as const } : r))
		});
		const [meter] = await listItems(this.sql, 'WM');
		const {
			name,
			shelfLife,
			endOfMonth,
			warranty,
			leastLeft,
			gtin,
			lotPattern,
			serialPattern,
			misfit,
			supplierNumber,
			rules,
			parts
		} = meter;
		await changeItem(this.sql, 'ines', 'WM', {
			name,
			shelfLife,
			endOfMonth,
			warranty,
			leastLeft,
			gtin,
			lotPattern,
			serialPattern,
			misfit,
			supplierNumber,
			rules,
			parts: parts.map(({ item, qty }) => ({ item, qty })),
			drawnAt: 'release'
		});
		await this.order(
			'rhea',
			this.ago(-3),
			{
				code: 'MO-734',
				kind: 'production',
				place: 'QS/LINE2',
				lines: [['WM', '4']],
				note: 'Serials are drawn; the work cards are printed with them.'
			},
			{},
			false
		);
		await this.repack();
		await this.rebuild();
		await this.assemble();
		await this.overTheFloor();
		await this.tags();
		await this.transfer();
		await this.adjust();
		await this.goBack();
		await this.counts();
		await this.sell();
		await this.invoices();
		await this.straps();
	}

	/** Buffer for the depot, and what a customer fetches there. It left two days ago, and one bottle of it was not in the box; more is asked for. */
	private async transfer() {
		const code = await this.order(
			'tobi',
			this.ago(2, 15),
			{
				...{ code: 'TR-5', kind: 'transfer', place: 'QS', to: 'ND/DOCK', lines: [['PH7-50', '24']] },
				note: 'For the counter at Northgate.'
			},
			{},
			{ mode: 'use' }
		);
		const { lines } = await sheetState(this.sql, code, 'output');
		const [{ mark, place, qty }] = lines[0].cells[0].picks;
		await this.type('tobi', code, { 'PH7-50': [{ mark, place, qty: sub(qty, '1') }] });
		await this.book('tobi', code, this.ago(1, 8), { mode: 'output' });
		// Northgate picks what Carraway fetches before it comes.
		await this.order(
			'tobi',
			this.ago(0),
			{
				...{ code: 'SO-3346', kind: 'sale', partner: 'CARRAWAY', place: 'ND', lines: [['PH7-50', '10']] },
				note: 'Fetched in the afternoon.'
			},
			{},
			{ mode: 'use' }
		);
		await this.order(
			'tobi',
			this.ago(0),
			{
				...{ code: 'TR-6', kind: 'transfer', place: 'QS', to: 'ND/DOCK' },
				lines: [
					['CR-30', '48'],
					['WM', '1']
				]
			},
			{},
			false
		);
	}

	/** A box of caps was trodden on, a few more lay behind the shelf; iodide was spilt; a bottle of buffer broke and is still to be scrapped. */
	private async adjust() {
		await this.order('ines', this.ago(6, 10), {
			kind: 'adjust-out',
			place: 'QS',
			reason: 'Damaged',
			lines: [['CAP', '40']],
			note: 'Trodden on.'
		});
		const [{ place }] = await this.sql<{ place: string }[]>`
			SELECT p.code AS place FROM balance b JOIN mark k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id AND i.code = 'CAP' JOIN place p ON p.id = b.place_id
			WHERE b.qty > 0 AND NOT b.virtual ORDER BY b.qty DESC LIMIT 1`;
		await this.order(
			'ines',
			this.ago(4, 14),
			{ kind: 'adjust-in', place, reason: 'Found', lines: [['CAP', '12']], note: 'Behind the shelf.' },
			{ CAP: [{ qty: '12', cost: '0.04' }] }
		);
		const [spilt] = await this.sql<{ mark: string; place: string }[]>`
			SELECT k.id AS mark, p.code AS place FROM balance b JOIN mark_now k ON k.id = b.mark_id AND k.status = 'released' JOIN item i ON i.id = k.item_id AND i.code = 'KI'
			JOIN place p ON p.id = b.place_id WHERE b.qty > 1 AND NOT b.virtual ORDER BY b.qty DESC, k.number LIMIT 1`;
		if (spilt)
			await this.order(
				'ines',
				this.ago(3, 11),
				{ kind: 'adjust-out', place: 'QS', reason: 'Damaged', lines: [['KI', '0.02']], note: 'Spilt at the scales.' },
				{ KI: [{ ...spilt, qty: '0.02' }] }
			);
		await this.order(
			'ines',
			this.ago(0),
			{
				code: 'AO-4',
				kind: 'adjust-out',
				place: 'QS',
				reason: 'Damaged',
				lines: [['PH7-50', '1']],
				note: 'Broken at the packing table.'
			},
			{},
			false
		);
	}

	/** The units that wait on the floor have their tags; two blank ones lie beside the reader at calibration. */
	private async tags() {
		await saveStation(this.sql, 'ines', { code: 'CAL', name: 'Calibration', place: 'QS/LINE2', review: false }, true);
		const units = await this.sql<{ serial: string; order: string | null; operation: string; state: string }[]>`
			SELECT k.serial_no AS serial, o.code AS order, f.operation, f.state FROM floor f JOIN mark k ON k.id = f.mark_id JOIN step s ON s.id = f.last_step LEFT JOIN orders o ON o.id = s.order_id
			WHERE f.state NOT IN ('complete', 'scrapped') ORDER BY k.serial_no LIMIT 8`;
		for (const [n, unit] of units.entries()) {
			const name = `TAG-${String(n + 1).padStart(2, '0')}`;
			await addTag(this.sql, name);
			const { epc, memory } = await tagOf(this.sql, { item: 'WM', ...unit, order: unit.order ?? '' });
			await this.sql`UPDATE tag SET epc = ${epc}, memory = ${memory} WHERE name = ${name}`;
		}
		for (const name of ['TAG-21', 'TAG-22']) await addTag(this.sql, name);
	}
	/** Two sacks of salt went into jars, one jar of which holds both; more wait. The arithmetic is a ledger of its own in the tests. */
	private async repack() {
		const at = this.ago(8);
		const expires = (months: number) => addDuration(this.day(at), `P${months}M`);
		await this.order(
			'tobi',
			this.ago(9),
			{ kind: 'purchase', partner: 'QUILLMERE', place: 'QS/A5', lines: [['BUFFER-SALT', '35']] },
			await this.papers({
				'BUFFER-SALT': [
					{ lot: 'QB-SACK-1', qty: '25', expiresOn: expires(14) },
					{ lot: 'QB-SACK-2', qty: '10', expiresOn: expires(11) }
				]
			})
		);
		const [one, two] = [await this.markId('BUFFER-SALT', 'QB-SACK-1'), await this.markId('BUFFER-SALT', 'QB-SACK-2')];
		await this.order(
			'rhea',
			at,
			{
				code: 'RP-12',
				kind: 'repack',
				from: 'BUFFER-SALT',
				place: 'QS/A5',
				lines: [
					['SALT-2', '12'],
					['SALT-1', '10']
				]
			},
			{
				'BUFFER-SALT': [
					{ mark: one, place: 'QS/A5', qty: '25' },
					{ mark: two, place: 'QS/A5', qty: '10' },
					{ lossOf: one, loss: '0.5' },
					{ lossOf: two, loss: '0.5' },
					{ mixing: 'rest' }
				],
				'SALT-1': [{ lot: 'SALT-MIX-1' }]
			},
			{ reason: 'What stays in the sacks and the funnel' }
		);
		await this.order(
			'rhea',
			this.ago(0),
			{
				code: 'RP-13',
				kind: 'repack',
				from: 'BUFFER-SALT',
				place: 'QS/A5',
				lines: [
					['SALT-2', '15'],
					['SALT-1', '20']
				],
				note: 'Jars for the schools’ order; labels with each lot.'
			},
			{},
			false
		);
	}
	/** One meter on the bench got new cells; another is to be taken apart for its probe. */
	private async rebuild() {
		const meter = await this.markId('WM', 'WM-0110');
		const [{ mark }] = await this.sql<{ mark: string }[]>`
			SELECT m.mark_id AS mark FROM run r JOIN movement m ON m.run_id = r.id AND m.role = 'use' JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
			WHERE r.unit_mark = ${meter} AND i.code = 'CELL'`;
		const [{ fresh }] = await this.sql<{ fresh: string }[]>`
			SELECT k.number AS fresh FROM mark k JOIN item i ON i.id = k.item_id JOIN balance b ON b.mark_id = k.id AND b.qty >= 10 AND NOT b.virtual
			WHERE i.code = 'CELL' ORDER BY k.id DESC LIMIT 1`;
		await rebuildUnit(
			this.sql,
			actor('mina'),
			meter,
			{ key: 'demo cells', reason: 'Cells were flat', parts: [{ mark, to: 'scrap', instead: fresh }] },
			this.ago(4, 15)
		);
		await addNote(
			this.sql,
			'mina',
			await this.markId('WM', 'WM-0152'),
			'The housing is cracked. To be taken apart for its probe; the rest is scrap.'
		);
	}

	/** Two people put meters together at two stations; three are reviewed and booked, two wait, one is in the middle. */
	private async assemble() {
		await saveStation(this.sql, 'ines', { code: 'L1', name: 'Assembly 1', place: 'QS/LINE1', review: true }, true);
		await saveStation(this.sql, 'ines', { code: 'L2', name: 'Assembly 2', place: 'QS/LINE2', review: true }, true);
		await saveStation(
			this.sql,
			'ines',
			{ code: 'BENCH', name: 'Repair bench', place: 'QS/LINE1', review: false },
			true
		);
		await this.order(
			'rhea',
			this.ago(-4),
			{ code: 'MO-737', kind: 'production', place: 'QS/LINE2', lines: [['WM', '4']] },
			{},
			false
		);
		await this.order(
			'rhea',
			this.ago(0),
			{ code: 'MO-735', kind: 'production', place: 'QS/LINE2', lines: [['WM', '3']] },
			{},
			false
		);
		const parts = await this.sql<{ item: string; number: string }[]>`
			SELECT i.code AS item, k.number FROM mark_now k JOIN item i ON i.id = k.item_id JOIN balance b ON b.mark_id = k.id AND NOT b.virtual AND b.qty >= CASE k.kind WHEN 'lot' THEN 20 ELSE 1 END
			JOIN place p ON p.id = b.place_id AND p.code LIKE 'QS/%'
			WHERE i.code IN ('PE', 'BOARD', 'CELL') AND k.kind = CASE i.code WHEN 'CELL' THEN 'lot' ELSE 'serial' END AND k.status = 'released' ORDER BY k.number`;
		const of = (item: string) => [...new Set(parts.filter((p) => p.item === item).map((p) => p.number))];
		const [probes, boards, [cells]] = [of('PE'), of('BOARD'), of('CELL')];
		const unit = async (who: string, station: string, order: string, serial: string, complete = true) => {
			const at = await findStation(this.sql, station);
			let before: { order: string; serial: string | null } | null = null;
			for (const text of [serial, probes.shift()!, cells, ...(complete ? [boards.shift()!] : [])]) {
				const answer = await scanAtStation(this.sql, { ...actor(who), source: 'station' }, at, {
					id: randomUUID(),
					text,
					before
				});
				if (!answer.taken) throw new Error(`The demo’s station took no ${text}: ${answer.said}`);
				before = answer.shown && { order: answer.shown.order, serial: answer.shown.serial };
			}
		};
		const cards = async (order: string) =>
			(await cardsOf(this.sql, await findMade(this.sql, order))).cards.map((c) => c.serial);
		for (const [i, serial] of (await cards('MO-735')).entries())
			await unit(i % 2 ? 'rhea' : 'ines', i % 2 ? 'L2' : 'L1', 'MO-735', serial);
		await bookReviewed(this.sql, actor('ines'), { key: 'demo review', units: [{ order: 'MO-735' }] });
		const [first, second, third] = await cards('MO-737');
		await unit('rhea', 'L1', 'MO-737', first);
		await unit('rhea', 'L2', 'MO-737', second);
		await unit('rhea', 'L1', 'MO-737', third, false);
	}

	/** Fourteen days of meters on the floor: most pass, some are reworked, one is scrapped, two are on hold. */
	private async overTheFloor() {
		await saveFact(this.sql, 'ines', {
			code: 'OFFSET',
			name: 'Offset at pH 7',
			kind: 'number',
			unit: 'mV',
			decimals: 1,
			low: '-10',
			high: '10',
			per: 'piece'
		});
		await setRoute(this.sql, 'ines', 'WM', {
			operations: [
				{ code: 'KIT', name: 'Kitting' },
				{ code: 'ASM', name: 'Assembly', stations: ['L1', 'L2'] },
				{ code: 'CAL', name: 'Calibration' },
				{ code: 'TEST', name: 'Test', values: ['OFFSET'] }
			]
		});
		const made = await this.sql<{ serial: string }[]>`
			SELECT k.serial_no AS serial FROM mark k JOIN item i ON i.id = k.item_id AND i.code = 'WM'
			JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual ORDER BY k.serial_no LIMIT 18`;
		const drawn = async (order: string) => {
			const found = await findMade(this.sql, order);
			await drawForCards(this.sql, 'ines', found);
			return (await cardsOf(this.sql, found)).cards.map((c) => c.serial);
		};
		await this.order(
			'rhea',
			this.ago(-6),
			{ code: 'MO-736', kind: 'production', place: 'QS/LINE1', lines: [['WM', '7']], note: 'On the floor.' },
			{},
			false
		);
		const [late, now] = [await drawn('MO-736'), (await drawn('MO-737')).slice(0, 3)];
		const fates = [
			...(['rework', 'rework', 'scrapped', 'held', 'rework', 'held', 'kitting'] as const),
			...(['at test', 'at calibration', 'at assembly'] as const)
		];
		// Soon after midnight what begins three hours back begins the day before: the first ones would be fifteen days old.
		const [began, today] = [12_600_000, 0].map((ago) => dayIn('Europe/London', new Date(this.now.getTime() - ago)));
		const oldest = began === today ? 13 : 12;
		for (const [i, serial] of [...made.map((m) => m.serial), ...late, ...now].entries()) {
			// Two a day, a quarter of an hour apart; the last ones today.
			const day = fates[i - made.length] === 'kitting' ? 0 : Math.max(0, oldest - Math.floor(i / 2));
			const start = this.now.getTime() - day * 86_400_000 - (i % 2 ? 11_700_000 : 12_600_000);
			const going = this.onFloor(serial, start);
			const fate = i < made.length ? ([2, 7, 12].includes(i) ? 'mended' : 'passed') : fates[i - made.length];
			await going.act('release', 0);
			if (fate === 'kitting') continue;
			await going.reads([10 + (i % 5), 12]);
			await going.reads([15], 'L1');
			if (fate === 'at assembly') continue;
			await going.reads([38 + ((7 * i) % 23)], 'L1');
			if (fate === 'mended' || fate === 'rework') {
				await going.act('read', 20);
				await going.act('rework', 12, { operation: 'ASM', reason: i % 2 ? 'Drifts at 40 °C' : 'Seal sits askew' });
				if (fate === 'rework') continue;
				await going.act('out of rework', 35);
				await going.reads([5, 31], 'L2');
			}
			if (fate === 'held') {
				await going.act('hold', 9, { reason: 'Waits for the certificate of its probe' });
				continue;
			}
			if (fate === 'at calibration') continue;
			await going.reads([18, 24 + (i % 9)]);
			await going.act('read', 10);
			if (fate === 'scrapped') await going.act('scrap', 14, { reason: 'Housing cracked' });
			if (fate === 'scrapped' || fate === 'at test') continue;
			await going.value('OFFSET', ((i % 13) - 6.5).toFixed(1));
			await going.act('read', 16 + (i % 6));
		}
	}
	/** A unit on the floor, from a moment on: each act so many minutes after the one before. */
	private onFloor(serial: string, start: number) {
		let at = start;
		let n = 0;
		const rhea: Actor = { ...actor('rhea'), source: 'station' };
		const act = (
			what: Act,
			minutes: number,
			more: { operation?: string; reason?: string } = {},
			station: string | null = null
		) =>
			takeStep(
				this.sql,
				rhea,
				{
					...{ key: `demo floor ${serial} ${++n}`, at: new Date((at += minutes * 60_000)).toISOString() },
					...{ item: 'WM', serial, act: what, ...more }
				},
				{ station, evidence: 'scanned' }
			);
		return {
			act,
			reads: async (minutes: number[], station: string | null = null) => {
				for (const m of minutes) await act('read', m, {}, station);
			},
			value: async (code: string, value: string) =>
				recordFact(this.sql, rhea, {
					...{ key: `demo value ${serial}`, mark: await this.markId('WM', serial), code, value },
					at: new Date(at).toISOString()
				})
		};
	}
}

/** One page that stands for the suppliers' certificates, kept once. @returns the value of the fact */
async function sampleCertificate(sql: Sql): Promise<string> {
	const maker = await pdfs();
	const bytes = await maker
		.createPdf({
			content: [
				'Quillmere Reagents',
				'Certificate of analysis',
				'Assay 99.6 %, moisture 0.2 %. Invented for the demo.'
			],
			defaultStyle: { font: 'Sans' }
		})
		.getBuffer();
	const kept = await storeFile(sql, 'tobi', { name: 'certificate-of-analysis.pdf', bytes });
	return `${kept.sha256} ${kept.name}`;
}
