import type { Sql } from '../../../src/lib/server/database/connect.ts';
import { ms } from '../measure.ts';
import type { Asker } from './asker.ts';

/** What is asked of the application at a million marks, by what people call it. */
export async function viewsOf(sql: Sql): Promise<[name: string, path: string][]> {
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
		['deliveries, all, by what', '/inbound?which=all&sort=content'],
		['deliveries, find', '/inbound?which=all&find=O120'],
		['production orders, open', '/production'],
		['orders to ship, open', '/outbound'],
		['orders to ship, all', '/outbound?which=all'],
		['orders to ship, state picked', '/outbound?which=all&state=picked'],
		['to be invoiced', '/outbound/invoices'],
		['new delivery', '/inbound/new'],
		['new production order', '/production/new'],
		['new order to ship', '/outbound/new'],
		['an open delivery', `/inbound/${purchase}`],
		['an open production order', `/production/${production}`],
		['an open order to ship', `/outbound/${sale}`],
		['a shipped order', `/outbound/${shipped}`],
		['stock', '/stock'],
		['stock, a bin of 20,000', '/stock?place=S2%2FSACKS'],
		['stock, a bin of 30,000 serials', '/stock?place=S2%2FPIECES'],
		['stock, by item', '/stock?item=PIECE'],
		['stock, by number', '/stock?sort=number'],
		['stock, by expiry', '/stock?sort=expires'],
		['stock, find', '/stock?find=SK-0171'],
		['stock, as of a year ago', '/stock?asOf=2025-06-01'],
		['put away', '/stock/move'],
		['put away from a bin of 20,000', '/stock/move?place=S2%2FSACKS'],
		['counts', '/stock/counts'],
		['new count', '/stock/counts/new'],
		['adjustments', '/stock/adjusted'],
		['register', '/register'],
		['register, all', '/register?show=all'],
		['register, deep', `/register?show=all&after=${deep('N15000-1', '1')}`],
		['register, not here', '/register?show=gone'],
		['register, not released', '/register?show=held'],
		['register, expiring', '/register?show=expiring'],
		['register, lots', '/register?kind=lot'],
		['register, by item', '/register?item=PIECE'],
		['register, by place', '/register?place=S2%2FB17'],
		['register, by site', '/register?place=S2'],
		['register, sorted by item', '/register?sort=item'],
		['register, sorted by expiry', '/register?sort=expires'],
		['register, sorted by quantity', '/register?sort=qty'],
		['register, sorted by place', '/register?sort=place'],
		['register, sorted by lot', '/register?sort=lot'],
		['register, find a number', '/register?find=N10000-1'],
		['register, find wide', '/register?find=N1'],
		['register, find one letter', '/register?find=n'],
		['register, find an item', '/register?find=item 12'],
		['register, find nothing', '/register?find=nothing%20like%20it'],
		['a serial', `/register/${serial}`],
		['a lot', `/register/${lot}`],
		['a lot that was made', `/register/${made}`],
		['a piece among 30,000', `/register/${piece}`],
		['the lot that reached 100,000', `/register/${root}`],
		['correct a serial', `/register/${serial}/correct?field=serial`],
		['events', '/events'],
		['events, find', '/events?find=D1200'],
		['what is in what', '/trace/contents'],
		['what is in what, find', '/trace/contents?find=N10001-1'],
		['what is in what, by number', '/trace/contents?sort=partNumber'],
		['trace a serial back', `/trace?mark=${made}&direction=back`],
		['scan a serial', '/find?q=N10000-0'],
		['scan a typo', '/find?q=N10000-O'],
		['scan an order', `/find?q=${sale}`],
		['scan nothing', '/find?q=ZZ-99-4711-X'],
		['items', '/setup/items'],
		['an item', '/setup/items/PIECE'],
		['places', '/setup/places'],
		['partners', '/setup/partners'],
		['ledger', '/devices'],
		['shortages', '/production/shortage'],
		['floor', '/production/floor'],
		['items for programs', '/api/v1/items']
	];
}

/** Asks each of them. */
export async function measureViews(sql: Sql, app: Asker): Promise<void> {
	for (const [name, path] of await viewsOf(sql)) {
		try {
			const { took, statements, bytes, waited } = await app.ask(path);
			console.log(
				`${took > 150 ? '!' : ' '} ${name}: ${ms(took)}, ${statements} statements, ${Math.round(bytes / 1000)} kB; a small request waited ${ms(waited)}`
			);
		} catch (e) {
			console.log(`X ${name}: ${(e as Error).message.slice(0, 200)}`);
		}
	}
	console.log(`${Math.round(app.memory())} MB`);
}
