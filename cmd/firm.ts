import { randomBytes } from 'node:crypto';
import { seedStory } from '../demo/story.ts';
import { PASSWORD, people } from '../demo/firm.ts';
import { connect } from '../src/lib/server/database/connect.ts';
import { addPerson } from '../src/lib/server/people/people.ts';
import { settings } from './settings.ts';

/** Fills an empty database: the demo firm, or one administrator. @returns what to tell whoever started it */
export async function fillFirm(url: string): Promise<string[]> {
	const sql = connect(url, 'app', 4);
	try {
		const [{ n }] = await sql<{ n: number }[]>`SELECT count(*)::int AS n FROM person`;
		if (!settings.demo) {
			if (n) return ['Sign in with the names made in Setup.'];
			const password = randomBytes(9).toString('base64url');
			await addPerson(sql, 'setup', { login: 'admin', name: 'Administrator', role: 'administrator', password });
			return [
				`Sign in as admin with the password ${password}. It is shown this once; the first sign-in asks for one of your own.`
			];
		}
		if (!n) console.log('Booking the demo firm’s story (about half a minute, once) …');
		await seedStory(sql);
		const demo = await sql`SELECT 1 FROM person WHERE login = 'ines'`;
		if (!demo.length) return ['Sign in with the names made in Setup.'];
		const wide = Math.max(...people.map((p) => p.login.length));
		return [
			`Sign in with the password ${PASSWORD} as`,
			...people.map((p) => `  ${p.login.padEnd(wide)}  ${p.name}, ${p.role}`)
		];
	} finally {
		await sql.end();
	}
}
