import type { Sql } from '../../../src/lib/server/database/connect.ts';
import { ms, repeat, undisturbed } from '../measure.ts';
import type { Asker } from './asker.ts';

/** What is asked, by what people call it, and where it is more than a moment's work the least statement that answers it. */
type View = [name: string, path: string, bare?: string];

const HAND = 'EXISTS (SELECT 1 FROM balance b WHERE b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual)';
const LYING =
	'balance b JOIN mark k ON k.id = b.mark_id LEFT JOIN mark l ON l.id = k.parent_id JOIN item i ON i.id = k.item_id JOIN place p ON p.id = b.place_id WHERE b.qty > 0 AND NOT b.virtual';
const TOTALS = (and: string) =>
	`SELECT k.item_id, sum(b.qty), min(coalesce(k.expires_on, l.expires_on)), count(DISTINCT b.mark_id), count(DISTINCT b.place_id) FROM ${LYING} ${and} GROUP BY 1`;
const LIES = (and: string) =>
	`SELECT b.mark_id FROM ${LYING} ${and} ORDER BY i.name COLLATE natural_order, b.mark_id, b.place_id LIMIT 51`;
const AT = (code: string) => `AND b.place_id = (SELECT x.id FROM place x WHERE x.code = '${code}')`;
const IN_BIN = (code: string) => LIES(AT(code));
const FIRST = (from: string, order: string) => `SELECT * FROM (SELECT k.id ${from} ORDER BY ${order}, k.id LIMIT 51) x`;

/** What is asked of the application at a million marks. */
export async function viewsOf(sql: Sql): Promise<View[]> {
	const id = async (number: string) =>
		(await sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number} LIMIT 1`)[0].id;
	const order = async (kind: string, open: boolean) =>
		(
			await sql<
				{ code: string }[]
			>`SELECT code FROM orders WHERE kind = ${kind} AND (closed_at IS NULL) = ${open} ORDER BY id DESC LIMIT 1`
		)[0].code;
	const [serial, lot, made, piece, root] = await Promise.all(
		['N10000-0', 'L10000-3', 'L10001-40', 'PC-00017', 'ROOT-100000'].map(id)
	);
	const [{ size }] = await sql<{ size: string }[]>`SELECT max(index) + 1 AS size FROM ledger_leaf`;
	const [{ id: event }] = await sql<{ id: string }[]>`SELECT max(id) AS id FROM event`;
	const [sale, purchase, production, shipped] = await Promise.all([
		order('sale', true),
		order('purchase', true),
		order('production', true),
		order('sale', false)
	]);
	const deep = (value: string, at: string) => encodeURIComponent(JSON.stringify([value, at, 60_000]));
	return [
		['Today', '/'],
		['deliveries, open', '/inbound'],
		['deliveries, all', '/inbound?which=all'],
		['deliveries, all, by partner', '/inbound?which=all&sort=who'],
		['deliveries, all, by state', '/inbound?which=all&sort=state'],
		[
			'deliveries, all, by what',
			'/inbound?which=all&sort=content',
			`SELECT o.id FROM orders o WHERE o.kind = 'purchase' ORDER BY (SELECT string_agg(i.name || ' ' || x.qty, ', ' ORDER BY x.no) FROM order_line x JOIN item i ON i.id = x.item_id WHERE x.order_id = o.id) COLLATE natural_order, o.id LIMIT 51`
		],
		['deliveries, find', '/inbound?which=all&find=O120'],
		['production orders, open', '/production'],
		['orders to ship, open', '/outbound'],
		['orders to ship, all', '/outbound?which=all'],
		['orders to ship, state picked', '/outbound?which=all&state=picked'],
		[
			'to be invoiced',
			'/outbound/invoices',
			`SELECT x.id, e.at FROM order_line x JOIN orders o ON o.id = x.order_id AND o.kind IN ('purchase', 'sale', 'counter') JOIN line_sum m ON m.order_line_id = x.id JOIN event e ON e.id = m.event_id
				LEFT JOIN (SELECT y.order_line_id, sum(y.qty) AS qty FROM noted_line y GROUP BY 1) v ON v.order_line_id = x.id WHERE m.qty <> coalesce(v.qty, 0) ORDER BY e.at, x.id LIMIT 51`
		],
		['new delivery', '/inbound/new'],
		['new production order', '/production/new'],
		['new order to ship', '/outbound/new'],
		['an open delivery', `/inbound/${purchase}`],
		['an open production order', `/production/${production}`],
		['an open order to ship', `/outbound/${sale}`],
		['a shipped order', `/outbound/${shipped}`],
		['stock', '/stock'],
		['stock, a bin of 20,000', '/stock?place=S2%2FSACKS', IN_BIN('S2/SACKS')],
		['stock, a bin of 30,000 serials', '/stock?place=S2%2FPIECES', IN_BIN('S2/PIECES')],
		['stock, by item', '/stock?item=PIECE', LIES(`AND i.code = 'PIECE'`)],
		['stock, by number', '/stock?sort=number'],
		[
			'stock, by expiry',
			'/stock?sort=expires',
			`SELECT b.mark_id FROM ${LYING} ORDER BY coalesce(k.expires_on, l.expires_on), b.mark_id, b.place_id LIMIT 51`
		],
		['stock, find', '/stock?find=SK-0171'],
		[
			'stock, as of a year ago',
			'/stock?asOf=2025-06-01',
			`SELECT s.mark_id FROM stock_at('2025-06-01') s JOIN place p ON p.id = s.place_id AND NOT p.virtual JOIN mark k ON k.id = s.mark_id JOIN item i ON i.id = k.item_id WHERE s.qty > 0 ORDER BY i.name COLLATE natural_order, s.mark_id, s.place_id LIMIT 51`
		],
		['totals by item', '/stock/totals', TOTALS('')],
		[
			'totals by item, one site',
			'/stock/totals?place=S2',
			TOTALS(`AND b.place_id IN (SELECT x.id FROM place x JOIN place s ON s.id = x.site_id WHERE s.code = 'S2')`)
		],
		['put away', '/stock/move'],
		[
			'put away from a bin of 20,000',
			'/stock/move?place=S2%2FSACKS',
			`SELECT b.mark_id FROM ${LYING} ${AT('S2/SACKS')} ORDER BY i.name, k.number COLLATE natural_order LIMIT 201`
		],
		[
			'put away from a bin of 30,000 serials',
			'/stock/move?place=S2%2FPIECES',
			`SELECT item_id, of_lot, status, facts, array_agg(number) FROM (SELECT k.*, l.lot_no AS of_lot FROM ${LYING} ${AT('S2/PIECES')} LIMIT 20001) x GROUP BY 1, 2, 3, 4`
		],
		['counts', '/stock/counts'],
		['new count', '/stock/counts/new'],
		['adjustments', '/stock/adjusted'],
		['register', '/register'],
		['register, all', '/register?show=all'],
		['register, deep', `/register?show=all&after=${deep('N15000-1', '1')}`],
		['register, not here', '/register?show=gone'],
		['register, not released', '/register?show=held'],
		['register, expiring', '/register?show=expiring'],
		[
			'register, lots',
			'/register?kind=lot',
			FIRST(`FROM mark k WHERE k.kind = 'lot' AND ${HAND}`, 'k.number COLLATE natural_order')
		],
		[
			'register, by item',
			'/register?item=PIECE',
			FIRST(
				`FROM mark k WHERE k.item_id = (SELECT id FROM item WHERE code = 'PIECE') AND ${HAND}`,
				'k.number COLLATE natural_order'
			)
		],
		['register, by place', '/register?place=S2%2FB17'],
		['register, by site', '/register?place=S2'],
		['register, sorted by item', '/register?sort=item'],
		[
			'register, sorted by expiry',
			'/register?sort=expires',
			FIRST(`FROM mark k LEFT JOIN mark l ON l.id = k.parent_id WHERE ${HAND}`, 'coalesce(k.expires_on, l.expires_on)')
		],
		[
			'register, sorted by quantity',
			'/register?sort=qty',
			FIRST(
				`FROM mark k JOIN (SELECT b.mark_id, sum(b.qty) AS qty FROM balance b WHERE b.qty > 0 AND NOT b.virtual GROUP BY 1) h ON h.mark_id = k.id`,
				'h.qty'
			)
		],
		[
			'register, sorted by place',
			'/register?sort=place',
			FIRST(
				`FROM mark k JOIN (SELECT b.mark_id, string_agg(p.code, ', ') AS places FROM balance b JOIN place p ON p.id = b.place_id WHERE b.qty > 0 AND NOT b.virtual GROUP BY 1) h ON h.mark_id = k.id`,
				'h.places COLLATE natural_order'
			)
		],
		['register, sorted by lot', '/register?sort=lot'],
		['register, find a number', '/register?find=N10000-1'],
		[
			'register, find wide',
			'/register?find=N1',
			FIRST(
				`FROM mark k WHERE lower(k.number) LIKE '%n1%' OR k.item_id IN (SELECT id FROM item WHERE lower(code || ' ' || name) LIKE '%n1%')`,
				'k.number COLLATE natural_order'
			)
		],
		[
			'register, find one letter',
			'/register?find=n',
			FIRST(
				`FROM mark k WHERE lower(k.number) LIKE '%n%' OR k.item_id IN (SELECT id FROM item WHERE lower(code || ' ' || name) LIKE '%n%')`,
				'k.number COLLATE natural_order'
			)
		],
		[
			'register, find an item',
			'/register?find=item 12',
			FIRST(
				`FROM mark k WHERE k.item_id IN (SELECT id FROM item WHERE lower(code || ' ' || name) LIKE '%item 12%')`,
				'k.number COLLATE natural_order'
			)
		],
		['register, find nothing', '/register?find=nothing%20like%20it'],
		['a serial', `/register/${serial}`],
		['a lot', `/register/${lot}`],
		['a lot that was made', `/register/${made}`],
		['a piece among 30,000', `/register/${piece}`],
		[
			'the lot that reached 100,000',
			`/register/${root}`,
			`SELECT u.run_id, o.mark_id, sum(o.qty) FROM movement u JOIN movement o ON o.run_id = u.run_id AND o.role = 'make' WHERE u.mark_id = ${root} AND u.role = 'use' GROUP BY 1, 2`
		],
		['correct a serial', `/register/${serial}/correct?field=serial`],
		['events', '/events'],
		[
			'events, find',
			'/events?find=D1200',
			`SELECT e.id FROM event e WHERE lower(e.document) LIKE '%d1200%' ORDER BY e.recorded_at DESC, e.id DESC LIMIT 51`
		],
		['what one event moved', `/events/moved?event.from=${event}&event.to=${event}&sort=line`],
		['movements', '/events/moved'],
		[
			'movements of an item',
			'/events/moved?item=PIECE',
			`SELECT m.id FROM mark k JOIN movement m ON m.mark_id = k.id WHERE k.item_id = (SELECT id FROM item WHERE code = 'PIECE') ORDER BY m.id DESC LIMIT 51`
		],
		[
			'movements at a place',
			'/events/moved?place=S2%2FB17',
			`SELECT m.id FROM movement m WHERE m.from_place = (SELECT id FROM place WHERE code = 'S2/B17') OR m.to_place = (SELECT id FROM place WHERE code = 'S2/B17') ORDER BY m.id DESC LIMIT 51`
		],
		['movements of a number', '/events/moved?find=N10000-1'],
		[
			'what is in what',
			'/trace/contents',
			`SELECT u.id FROM movement u JOIN movement o ON o.run_id = u.run_id AND o.role = 'make' WHERE u.role = 'use' ORDER BY u.at DESC, u.id DESC LIMIT 51`
		],
		['what is in what, find', '/trace/contents?find=N10001-1'],
		[
			'what is in what, by number',
			'/trace/contents?sort=partNumber',
			`SELECT u.id FROM movement u JOIN mark k ON k.id = u.mark_id JOIN movement o ON o.run_id = u.run_id AND o.role = 'make' WHERE u.role = 'use' ORDER BY k.number COLLATE natural_order LIMIT 51`
		],
		['trace a serial back', `/trace?mark=${made}&direction=back&ledgerSize=${size}`],
		['scan a serial', '/find?q=N10000-0'],
		[
			'scan a typo',
			'/find?q=N10000-O',
			`SELECT k.id FROM mark k WHERE lower(k.number) % 'n10000-o' ORDER BY similarity(lower(k.number), 'n10000-o') DESC LIMIT 60`
		],
		['scan an order', `/find?q=${sale}`],
		['scan nothing', '/find?q=ZZ-99-4711-X'],
		['items', '/setup/items'],
		['an item', '/setup/items/PIECE'],
		['places', '/setup/places'],
		['partners', '/setup/partners'],
		['ledger', '/devices'],
		['shortages', '/production/shortage'],
		['floor', '/production/floor'],
		['the interface for programs', '/api'],
		['lots and serials for programs, 1,000', '/api/v1/marks?count=1000'],
		['lots and serials for programs, of an item', '/api/v1/marks?item=PIECE'],
		['a serial for programs', `/api/v1/marks/${serial}`],
		['the life of a lot for programs', `/api/v1/marks/${made}/events`],
		['stock for programs', '/api/v1/stock'],
		['events for programs', '/api/v1/events'],
		['an open order for programs', `/api/v1/orders/${sale}`],
		[
			'items for programs',
			'/api/v1/items',
			`SELECT i.*, (SELECT json_agg(p.code) FROM part x JOIN item p ON p.id = x.part_item_id WHERE x.item_id = i.id) AS parts FROM item i ORDER BY i.code`
		]
	];
}

/** How long each may take: three times the least statement that answers it, or so many ms where that is more. */
const MOMENT = 150;

/** Asks each of them. @returns the names of those that took longer than they may */
export async function measureViews(sql: Sql, app: Asker): Promise<string[]> {
	const late: string[] = [];
	for (const [name, path, bare] of await viewsOf(sql)) {
		const { took, statements, bytes, waited } = await app.ask(path);
		const least = bare && took > MOMENT ? await undisturbed(() => repeat(1, () => sql.unsafe(bare))) : 0;
		const most = Math.max(MOMENT, 3 * least);
		if (took > most) late.push(name);
		console.log(
			`${name}: ${ms(took)}${least ? `; bare ${ms(least)}` : ''}${took > MOMENT ? ` (wanted: at most ${ms(most)})` : ''}; ${Math.round(statements)} statements, ${Math.round(bytes / 1000)} kB; a small request waited at most ${ms(waited)}`
		);
	}
	console.log(
		`${Math.round(app.memory())} MB at most; ${late.length ? `longer than wanted (${MOMENT} ms, or 3 times the bare statement): ${late.join('; ')}` : `all within ${MOMENT} ms or 3 times their bare statement`}`
	);
	return late;
}
