import { StartError } from '../src/lib/server/database/cluster.ts';
import { backup } from '../src/lib/server/backup/backup.ts';
import { liveDatabase } from './running.ts';
import { main } from './settings.ts';

await main(async () => {
	const [file] = process.argv.slice(2);
	if (!file) throw new StartError('Name the file to write: ./earmark backup FILE.');
	const database = await liveDatabase();
	try {
		const made = await backup(database.url, file);
		console.log(
			`${file}: ${Math.ceil(made.bytes / 1e6).toLocaleString('en')} MB, everything as of ${made.taken}. Ledger head ${made.size}:${made.root}. Keep the head elsewhere too.`
		);
	} finally {
		database.stop();
	}
});
