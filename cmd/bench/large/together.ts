import type { Sql } from '../../../src/lib/server/database/connect.ts';
import { ms, quantile, time } from '../measure.ts';
import type { Asker } from './asker.ts';

/** How many small requests are asked while the large ones run, and how long they may take, in ms. */
const SMALL = 200;
const WAIT = 300;
/** In MB. */
const MOST_MEMORY = 1200;

/**
 * What everybody else notices of a trace of 100,000 numbers, a notice of 20,000 rows, a print of 5,000 labels and a booking of
 * 10,000 serials, all at once.
 */
export async function measureTogether(sql: Sql, app: Asker): Promise<void> {
	const [{ id: serial }] = await sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'N10000-0'`;
	const marks = await sql<{ id: string }[]>`SELECT id FROM mark WHERE number LIKE 'PC-%' ORDER BY id LIMIT 5000`;
	const made = await app.call('/api/v1/orders', {
		...{ kind: 'purchase', partner: 'P0', site: 'S1/B1' },
		lines: [{ item: 'PIECE', qty: '20000' }]
	});
	const { code } = JSON.parse(made.text) as { code: string };
	const rows = Array.from({ length: 20_000 }, (_, n) => `PIECE,NT-${String(n).padStart(5, '0')},1`);
	const job = JSON.parse(
		(
			await app.call('/api/v1/labels', {
				marks: marks.map((m) => m.id),
				symbol: 'QR code',
				dpi: '300',
				copies: '1',
				size: '70 × 35'
			})
		).text
	) as { id: string };
	const statuses: number[] = [];
	const large = async (name: string, path: string, body?: unknown) => {
		let status = 0;
		const took = await time(async () => ({ status } = await app.call(path, body)));
		statuses.push(status);
		console.log(`  ${name}: ${ms(took)}, answered ${status}`);
	};
	let going = true;
	const work = Promise.all([
		large('a trace of 100,000 numbers', '/api/v1/trace?direction=forward&item=RAW&lot=ROOT-100000'),
		large('a notice of 20,000 rows', '/api/v1/notices', {
			...{ order: code, name: 'large.csv', text: ['item,serial,qty', ...rows].join('\n') }
		}),
		large('a print of 5,000 labels', `/labels/${job.id}/pdf`),
		large('a booking of 10,000 serials', '/api/v1/events', {
			...{ key: `together-${code}`, kind: 'receipt', at: new Date().toISOString(), partner: 'P0' },
			movements: Array.from({ length: 10_000 }, (_, n) => ({
				...{ item: 'PIECE', serial: `TG-${code}-${String(n).padStart(5, '0')}`, qty: '1' },
				...{ from: '@supplier', to: 'S1/B1' }
			}))
		})
	]).finally(() => (going = false));
	const waits: number[] = [];
	const ask = ['/api/v1/healthz', `/api/v1/marks/${serial}`, '/find?q=N10000-1', `/register/${serial}`];
	while (going || waits.length < SMALL) {
		await new Promise((next) => setTimeout(next, 20));
		const path = ask[waits.length % ask.length];
		waits.push(await time(async () => statuses.push((await app.call(path)).status)));
	}
	await work;
	const failed = statuses.filter((s) => s >= 500).length;
	console.log(
		`beside them ${waits.length} small requests: 99 % within ${ms(quantile(waits, 0.99))} (wanted: at most ${WAIT} ms), the longest ${ms(Math.max(...waits))}; ${failed} answered 5xx (wanted: none); ${Math.round(app.memory())} MB at most (wanted: at most ${MOST_MEMORY})`
	);
}
