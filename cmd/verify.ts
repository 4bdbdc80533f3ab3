import { connect } from '../src/lib/server/database/connect.ts';
import { migrate } from '../src/lib/server/database/migrate.ts';
import { findRunning } from './running.ts';
import { verify } from '../src/lib/server/ledger/verify.ts';
import { main, openDatabase } from './settings.ts';

await main(async () => {
	const running = findRunning();
	const database = running ? { url: running, stop: () => {} } : await openDatabase();
	if (running) await migrate(running);
	const sql = connect(database.url, 'owner', 1);
	try {
		const { events, movements, findings } = await verify(sql);
		for (const f of findings) console.log(`${f.rule}: ${f.what}`);
		console.log(
			findings.length
				? `${findings.length} findings in ${events} events and ${movements} movements. Do not correct rows by hand; keep the database as it is and look into each.`
				: `All eleven invariants hold over ${events} events and ${movements} movements.`
		);
		process.exitCode = findings.length ? 1 : 0;
	} finally {
		await sql.end();
		database.stop();
	}
});
