import { chmodSync, existsSync, readdirSync, renameSync, rmdirSync, rmSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { startCluster, StartError } from '../src/lib/server/database/cluster.ts';
import { readAbout, restore } from '../src/lib/server/backup/backup.ts';
import { main, settings } from './settings.ts';

await main(async () => {
	const [file] = process.argv.slice(2);
	if (!file) throw new StartError('Name the backup: ./earmark restore FILE.');
	// Before a database is made for it.
	readAbout(file);
	const folder = resolve(settings.data);
	if (!settings.database && existsSync(join(folder, 'pg')))
		throw new StartError(
			`${folder} holds a database already, and nothing of it is overwritten. Set EARMARK_DATA to another folder.`
		);
	// In a folder within, whose content moves up at the end: a restore that was stopped leaves nothing in the way of the next,
	// and whatever else lies in the folder stays.
	const beside = join(folder, 'restoring');
	if (!settings.database) rmSync(beside, { recursive: true, force: true });
	const cluster = settings.database ? null : await startCluster(beside);
	let whole = false;
	try {
		const { about, verified } = await restore(settings.database ?? cluster!.url, file);
		for (const f of verified.findings) console.log(`${f.rule} ${f.table}: ${f.what}`);
		if (verified.findings.length)
			throw new StartError(
				`It was restored${cluster ? ` into ${beside}` : ''}, and differs from what was backed up in the places above. Look into each before you work on it.`
			);
		whole = true;
		console.log(
			`Restored as of ${about.taken}: ${verified.events.toLocaleString('en')} events and ${verified.movements.toLocaleString('en')} movements, all checked. The ledger begins with the head of the backup, ${about.size}:${about.root}.`
		);
	} finally {
		cluster?.stop();
		if (cluster && whole) {
			for (const name of readdirSync(beside)) renameSync(join(beside, name), join(folder, name));
			rmdirSync(beside);
			// The user postgres passes through, and reads nothing else.
			if (process.getuid?.() === 0) chmodSync(folder, 0o711);
		}
	}
});
