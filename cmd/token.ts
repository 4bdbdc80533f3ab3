import { userInfo } from 'node:os';
import { roles } from '../src/lib/core/people/can.ts';
import { Problem } from '../src/lib/core/problem/problem.ts';
import { connect } from '../src/lib/server/database/connect.ts';
import { StartError } from '../src/lib/server/database/cluster.ts';
import { makeToken } from '../src/lib/server/people/tokens.ts';
import { liveDatabase } from './running.ts';
import { main } from './settings.ts';

await main(async () => {
	const [name, role, ends] = process.argv.slice(2);
	if (!name || !role)
		throw new StartError(
			`./earmark token NAME ROLE [UNTIL], where ROLE is one of: ${roles.join(', ')}; UNTIL is its last day, such as 2027-03-31`
		);
	const database = await liveDatabase();
	const sql = connect(database.url, 'app', 1);
	try {
		console.log(await makeToken(sql, name, role, userInfo().username, ends));
	} catch (e) {
		throw e instanceof Problem ? new StartError(e.message) : e;
	} finally {
		await sql.end();
		database.stop();
	}
});
