import { randomUUID } from 'node:crypto';
import type { Sql } from '../../../src/lib/server/database/connect.ts';
import { median, ms, time } from '../measure.ts';
import type { Asker } from './asker.ts';

/** How many numbers a long sheet holds. */
const NUMBERS = 10_000;
/** Until its page is there, and until one scan or change is answered, in ms. */
const WANTED = { open: 700, change: 60 };
const TIMES = 15;

/**
 * Long sheets: a delivery of ten thousand serials, each a row of its own or all of them one row, and a shipment of ten
 * thousand out of thirty thousand that lie there; opened, scanned into, changed; and all of it checked behind.
 */
export async function measureSheets(sql: Sql, app: Asker): Promise<void> {
	const pieces = await sql<
		{ number: string }[]
	>`SELECT number FROM mark WHERE number LIKE 'PC-%' ORDER BY id LIMIT ${TIMES}`;
	for (const entered of ['rows', 'one row', 'shipment'] as const) {
		const ships = entered === 'shipment';
		const code = await make(app, ships);
		const [{ order, line }] = await sql<{ order: string; line: string }[]>`
			SELECT o.id AS order, l.id AS line FROM orders o JOIN order_line l ON l.order_id = o.id WHERE o.code = ${code}`;
		// As they come of ten thousand scans: no page saves so many at once.
		const rows = entered === 'rows' ? NUMBERS - TIMES : ships ? 0 : 1;
		const each = entered === 'rows' ? 1 : NUMBERS - TIMES;
		await sql`INSERT INTO draft_row (id, order_id, line_id, data, changed_by)
			SELECT gen_random_uuid(), ${order}, ${line}, jsonb_build_object('serial', ${`${code}-`}::text || to_char(n, 'FM00000'), 'count', ${each}::int), 'bench' FROM generate_series(1, ${rows}::int) n`;
		const what = {
			rows: `a delivery of ${NUMBERS.toLocaleString('en')} serials, each a row`,
			'one row': `a delivery of ${NUMBERS.toLocaleString('en')} serials in one row`,
			shipment: `a shipment of ${NUMBERS.toLocaleString('en')} serials of 30,000 that lie there`
		}[entered];
		const page = await app.ask(`/${ships ? 'outbound' : 'inbound'}/${code}`);
		console.log(
			`${what}: its page ${ms(page.took)} (wanted: at most ${WANTED.open} ms), ${Math.round(page.bytes / 1000)} kB; a small request waited ${ms(page.waited)}`
		);
		const whole = await app.ask(`/orders/${code}/sheet`);
		console.log(
			`  all of it, checked: ${ms(whole.took)}, ${Math.round(whole.bytes / 1000)} kB; a small request waited ${ms(whole.waited)}`
		);
		const changes: number[] = [];
		const row = randomUUID();
		let known = (JSON.parse((await app.call(`/orders/${code}/sheet`)).text) as Answer).state.is;
		for (let version = 0; version < TIMES && !ships; version++) {
			const data = { serial: `CH-${code}-${version}`, count: 1 };
			changes.push(
				await time(() => app.call(`/orders/${code}/sheet?part=1`, [{ id: row, lineId: line, version, data }], 'PUT'))
			);
		}
		const scans: number[] = [];
		for (let n = 0; n < TIMES; n++) {
			const text = ships ? pieces[n].number : `SC-${code}-${n}`;
			let answer = '';
			scans.push(
				await time(async () => {
					const scan = { id: randomUUID(), text, lineId: line, lot: null };
					({ text: answer } = await app.call(`/orders/${code}/scan?part=1`, scan));
				})
			);
			if (!answer.includes('"taken":true')) throw new Error(`${text} was not taken: ${answer.slice(0, 300)}`);
		}
		for (const [name, took] of Object.entries({ change: changes, scan: scans }))
			if (took.length)
				console.log(
					`  one ${name}: ${ms(median(took))} (wanted: at most ${WANTED.change} ms), the longest ${ms(Math.max(...took))}`
				);
		let since = '';
		const behind = await time(async () => {
			since = (await app.call(`/orders/${code}/sheet?known=${known}`)).text;
		});
		known = (JSON.parse(since) as Answer).state.is;
		console.log(`  what all of that changed, checked: ${ms(behind)}, ${Math.round(since.length / 1000)} kB`);
	}
}
interface Answer {
	state: { is: string };
}

async function make(app: Asker, ships: boolean): Promise<string> {
	const made = await app.call('/api/v1/orders', {
		...(ships ? { kind: 'sale', partner: 'P1', site: 'S2' } : { kind: 'purchase', partner: 'P0', site: 'S1/B1' }),
		lines: [{ item: 'PIECE', qty: String(NUMBERS) }]
	});
	return (JSON.parse(made.text) as { code: string }).code;
}
