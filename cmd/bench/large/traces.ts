import type { Sql } from '../../../src/lib/server/database/connect.ts';
import { median, ms, time } from '../measure.ts';
import type { Asker } from './asker.ts';
import { REACHED } from './firm.ts';

/** Until the picture of so many numbers is there, in ms, and what may be sent for it, in bytes. */
const WANTED: Record<(typeof REACHED)[number], number> = { 1_000: 400, 20_000: 2_000, 100_000: 8_000 };
const MOST_BYTES = 1_000_000;
/** What the application may hold while a program traces 100,000 numbers, in MB, however often. */
const MOST_MEMORY = 400;

/** How long it takes to the picture of a trace, to another page and part of its table, and to the whole of it for a program. */
export async function measureTraces(sql: Sql, app: Asker): Promise<void> {
	// What was looked at is kept: each of these is of a moment of its own, which nobody has looked at.
	let [{ size }] = await sql<{ size: number }[]>`SELECT (max(index) + 1)::int AS size FROM ledger_leaf`;
	for (const reached of REACHED) {
		const [{ id }] = await sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${`ROOT-${reached}`}`;
		const path = () => `/trace?mark=${id}&direction=forward&ledgerSize=${--size}`;
		const { took, bytes, waited } = await app.ask(path, 3);
		console.log(
			`trace page of ${reached.toLocaleString('en')} numbers: the picture after ${ms(took)} (wanted: at most ${ms(WANTED[reached])}), ${Math.round(bytes / 1000)} kB (wanted: at most ${MOST_BYTES / 1000}); a small request waited at most ${ms(waited)}`
		);
		const look = { look: crypto.randomUUID(), mark: id, direction: 'forward', part: 'where', ledgerSize: size };
		const ask = async (more: object) => {
			const { status, text } = await app.call('/trace/look', { ...look, ...more });
			if (status !== 200) throw new Error(`/trace/look: ${status} ${text.slice(0, 300)}`);
		};
		await ask({});
		const looks = {
			'another page': { from: 100 },
			'what is found': { find: `pk${reached}-1-` },
			'by generation': { part: 'numbers' },
			'more bars': { want: 'picture', bars: [[1, 27]] }
		};
		for (const [name, more] of Object.entries(looks)) {
			const took: number[] = [];
			for (let n = 0; n < 5; n++) took.push(await time(() => ask(more)));
			console.log(`  ${name}: ${ms(median(took))}, at first ${ms(took[0])}`);
		}
		const { took: program, size: length } = await forProgram(app, reached);
		console.log(`  for a program: ${ms(program)}, ${Math.round(length / 1000)} kB`);
	}
	console.log(`${Math.round(app.memory())} MB at most`);
}

/** The whole of a trace as a program asks for it. @returns how long it took, in ms, and its length */
async function forProgram(app: Asker, reached: number): Promise<{ took: number; size: number }> {
	let size = 0;
	const took = await time(async () => {
		size = (await app.call(`/api/v1/trace?direction=forward&item=RAW&lot=ROOT-${reached}`)).text.length;
	});
	return { took, size };
}

/** What the application holds when programs ask for the largest trace again and again, and nothing was asked before. */
export async function measureForProgram(app: Asker): Promise<void> {
	const before = app.memory();
	const took: number[] = [];
	const held: number[] = [];
	for (let n = 0; n < 8; n++) {
		took.push((await forProgram(app, Math.max(...REACHED))).took);
		held.push(Math.round(app.memory()));
	}
	console.log(
		`a trace of 100,000 numbers for a program, eight times: ${ms(median(took))}; ${Math.round(before)} MB at most before, ${held[0]} after the first and ${held.at(-1)} after the last (wanted: at most ${MOST_MEMORY})`
	);
}
