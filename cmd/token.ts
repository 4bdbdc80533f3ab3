import { userInfo } from 'node:os';
import { roles } from '../src/lib/core/people/can.ts';
import { Problem } from '../src/lib/core/problem/problem.ts';
import { connect } from '../src/lib/server/database/connect.ts';
import { StartError } from '../src/lib/server/database/cluster.ts';
import { makeToken } from '../src/lib/server/people/tokens.ts';
import { liveDatabase } from './running.ts';
import { main } from './settings.ts';

await main(async () => {
	const [name, role] = process.argv.slice(2);
	if (!name || !role) throw new StartError(`./earmark token NAME ROLE, where ROLE is one of: ${roles.join(', ')}`);
	const database = await liveDatabase();
	const sql = connect(database.url, 'app', 1);
	try {
		console.log(await makeToken(sql, name, role, userInfo().username));
	} catch (e) {
		throw e instanceof Problem ? new StartError(e.message) : e;
	} finally {
		await sql.end();
		database.stop();
	}
});
