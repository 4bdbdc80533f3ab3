import type { Sql } from '../../../src/lib/server/database/connect.ts';
import { ms, quantile, time } from '../measure.ts';
import type { Asker } from './asker.ts';
import { REACHED } from './firm.ts';

/** How long a small request may wait beside any of them, in ms. */
const WAIT = 300;

/** What is carried away whole, by what people call it. */
async function papersOf(sql: Sql): Promise<[name: string, path: string][]> {
	const roots = await sql<{ id: string; number: string }[]>`
		SELECT id, number FROM mark WHERE number = ANY(${REACHED.map((n) => `ROOT-${n}`)}) ORDER BY id`;
	const [shipped] = await sql<{ code: string; event: string }[]>`
		SELECT o.code, e.id AS event FROM orders o JOIN event e ON e.order_id = o.id
		WHERE o.kind = 'sale' AND o.closed_at IS NOT NULL ORDER BY o.id DESC LIMIT 1`;
	const [{ code: open }] = await sql<{ code: string }[]>`
		SELECT code FROM orders WHERE kind = 'sale' AND closed_at IS NULL ORDER BY id DESC LIMIT 1`;
	const large = `mark=${roots.at(-1)!.id}&direction=forward`;
	return [
		...roots.map(({ id, number }): [string, string] => [
			`report of the trace of ${number}`,
			`/trace/report?mark=${id}&direction=forward`
		]),
		['where 100,000 numbers are, as CSV', `/trace/csv?${large}`],
		['by which ways 100,000 numbers came, as CSV', `/trace/csv?${large}&part=numbers`],
		['delivery note', `/orders/${shipped.code}/packing-list?event=${shipped.event}`],
		['pick list', `/orders/${open}/packing-list`],
		['items, as PDF', '/lists/items/pdf'],
		['stock of an item, as CSV', '/lists/stock/csv?item=PIECE'],
		['all of the register, as CSV', '/lists/register/csv'],
		['all stock, as XLSX', '/lists/stock/xlsx']
	];
}

/** Papers, and what is exported whole: how long each takes, and how long others wait meanwhile. */
export async function measurePapers(sql: Sql, app: Asker): Promise<void> {
	const late: string[] = [];
	for (const [name, path] of await papersOf(sql)) {
		let [took, size, status] = [0, 0, 0];
		const waits = await app.beside(async () => {
			took = await time(async () => {
				const got = await app.call(path);
				[size, status] = [got.text.length, got.status];
			});
		});
		const waited = quantile(waits, 0.99);
		if (waited > WAIT) late.push(name);
		console.log(
			`${name}: ${ms(took)}, ${Math.round(size / 1000)} kB, answered ${status}; of ${waits.length} small requests 99 % within ${ms(waited)} (wanted: at most ${WAIT}), the longest ${ms(Math.max(...waits))}`
		);
	}
	console.log(
		`${Math.round(app.memory())} MB at most; ${late.length ? `kept others waiting too long: ${late.join('; ')}` : 'nothing kept others waiting too long'}`
	);
}
