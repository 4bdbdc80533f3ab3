import { randomBytes } from 'node:crypto';
import { StartError } from '../src/lib/server/database/cluster.ts';
import { connect } from '../src/lib/server/database/connect.ts';
import { listPeople, setActive, setPassword } from '../src/lib/server/people/people.ts';
import { liveDatabase } from './running.ts';
import { main } from './settings.ts';

// For whoever has this machine: gives a person a new password, as when the administrator's is lost.
await main(async () => {
	const [login = 'admin'] = process.argv.slice(2);
	const database = await liveDatabase();
	const sql = connect(database.url, 'app', 1);
	try {
		const people = await listPeople(sql);
		const person = people.find((p) => p.login === login);
		if (!person)
			throw new StartError(
				`Nobody signs in as ${login}. ${people.length ? `There are: ${people.map((p) => p.login).join(', ')}.` : 'Start Earmark once; it makes the first administrator.'}`
			);
		const password = randomBytes(9).toString('base64url');
		await setPassword(sql, 'command line', login, password);
		if (!person.active) await setActive(sql, 'command line', login, true);
		console.log(
			`${person.name} signs in as ${login} with the password ${password}, and is signed out everywhere else. The sign-in asks for one of their own.`
		);
	} finally {
		await sql.end();
		database.stop();
	}
});
