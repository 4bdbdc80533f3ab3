import { keepDoing } from '../work/every.ts';
import type { Sql } from './connect.ts';
import { sameVersion, versionOf, versionOfCode, type Version } from './migrate.ts';

/** How often the version of the database is looked at, in ms. */
const EVERY = 1000;

/**
 * Looks, for as long as the process runs, whether the database is still of this version: a newer instance may have brought it
 * up to another while this one runs, and would then be asked by calls that it no longer has.
 * @param ended called once where it is of another, with what to do, in a sentence
 * @param own what this version needs
 * @returns how to stop it
 */
export function watchVersion(
	pool: () => Sql,
	ended: (sentence: string) => void,
	own: Version = versionOfCode()
): () => Promise<void> {
	let told = false;
	return keepDoing(EVERY, 'The version of the database could not be read; it is tried again.', async () => {
		const there = await versionOf(pool());
		if (told || sameVersion(there, own)) return;
		told = true;
		ended(
			`The database has been brought up to another version of Earmark (it stands at ${there.migration}). This one stops; start that version here too.`
		);
	});
}
