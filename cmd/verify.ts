import { connect, type Db } from '../src/lib/server/database/connect.ts';
import { StartError } from '../src/lib/server/database/cluster.ts';
import { guardsAsDelivered } from '../src/lib/server/ledger/guards.ts';
import { sealAll, type PaperHead } from '../src/lib/server/ledger/seal.ts';
import { verify } from '../src/lib/server/ledger/verify.ts';
import { liveDatabase } from './running.ts';
import { main } from './settings.ts';

/** `--head SIZE:ROOT`, as a paper has it: the root whole, or at least its first 16 characters. */
function headGiven(args: readonly string[]): PaperHead | undefined {
	const at = args.indexOf('--head');
	if (at < 0) {
		if (args.length) throw new StartError(`There is no option ${args[0]}. Give --head SIZE:ROOT, or nothing.`);
		return undefined;
	}
	const read = /^(\d{1,15}):([0-9a-f]{16,64})$/i.exec(args[at + 1] ?? '');
	if (!read)
		throw new StartError(
			'Give the head as the paper has it, its size and at least 16 characters of its root: --head 1250:9f86d081884c7d65.'
		);
	return { size: Number(read[1]), root: read[2] };
}

const number = (n: number) => n.toLocaleString('en');

await main(async () => {
	const head = headGiven(process.argv.slice(2));
	const database = await liveDatabase();
	const sql = connect(database.url, 'owner', 3);
	try {
		const guards = await guardsAsDelivered(database.url);
		if (!guards) console.log('The guards in the database were not compared: its owner may make no second database.');
		await sealAll(sql);
		const told = new Map<string, number>();
		const progress = (name: string, done?: number, of?: number) => {
			const now = Date.now();
			if (now - (told.get(name) ?? 0) < 2000) return;
			told.set(name, now);
			console.log(done === undefined ? `… ${name}` : `… ${name}: ${number(done)} of ${number(of!)}`);
		};
		// One snapshot: what is booked meanwhile is not looked at, and disturbs nothing.
		const result = { value: null as Awaited<ReturnType<typeof verify>> | null };
		const snapshot = 'ISOLATION LEVEL REPEATABLE READ';
		await sql.begin(snapshot, async (tx) => {
			const [{ name }] = await tx<{ name: string }[]>`SELECT pg_export_snapshot() AS name`;
			const same = (work: (other: Db) => Promise<unknown>) =>
				sql.begin(snapshot, async (other) => {
					await other.unsafe(`SET TRANSACTION SNAPSHOT '${name}'`);
					await work(other);
				});
			await same((one) =>
				same(async (two) => {
					result.value = await verify(tx, { guards, head, progress, beside: [one, two] });
				})
			);
		});
		const { events, movements, size, root, findings } = result.value!;
		for (const f of findings)
			console.log(
				`${f.rule} ${f.table}: ${f.count === 1 ? '1 difference' : `${number(f.count)} differences, the first`}: ${f.what}`
			);
		const over = `${number(events)} events and ${number(movements)} movements`;
		if (findings.length)
			console.log(
				`Differences in ${findings.length} ${findings.length === 1 ? 'place' : 'places'}, over ${over}. Do not correct rows by hand; keep the database as it is and look into each.`
			);
		else {
			console.log(`All twelve invariants hold over ${over}. Ledger head ${size}:${root}.`);
			if (head) console.log(`The ledger begins with the ${number(head.size)} entries of the paper.`);
		}
		process.exitCode = findings.length ? 1 : 0;
	} finally {
		await sql.end();
		database.stop();
	}
});
