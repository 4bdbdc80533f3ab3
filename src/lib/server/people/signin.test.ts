import { beforeAll, describe, expect, it } from 'vitest';
import { testDatabase } from '../../../../tests/db/cluster.ts';
import { addPerson, setPassword } from './people.ts';
import { endSessions, personOf, sessionsOf, signIn } from './sessions.ts';
import { changeOwnPassword } from './you.ts';

const db = testDatabase();
const PASSWORD = 'a long enough password';
const [HOME, AWAY] = ['10.0.0.1', '10.0.0.2'];
/** What comes of a try: in, wrong, or how it has to wait. */
const tried = (login: string, password: string, address: string) =>
	signIn(db.sql, login, password, address).then(
		() => 'in',
		(e: { status: number }) => (e.status === 429 ? 'waits' : 'wrong')
	);

beforeAll(async () => {
	for (const login of ['ines', 'tobi'])
		await addPerson(db.sql, 'setup', { login, name: login, role: 'coordinator', password: PASSWORD });
});

describe('wrong passwords', () => {
	it('of many for one name from elsewhere keep nobody out where they signed in before', async () => {
		expect(await tried('ines', PASSWORD, HOME)).toBe('in');
		const outcomes = [];
		for (let n = 0; n < 60; n++) outcomes.push(await tried('ines', 'wrong', `10.1.0.${n}`));
		expect(outcomes.slice(0, 30).every((o) => o === 'wrong')).toBe(true);
		expect(outcomes).toContain('waits');
		expect(await tried('ines', PASSWORD, AWAY)).toBe('waits');
		expect(await tried('ines', PASSWORD, HOME)).toBe('in');
	});
	it('over many names from one address are slowed down too', async () => {
		const outcomes = [];
		for (let n = 0; n < 80; n++) outcomes.push(await tried(`nobody-${n}`, 'wrong', '10.2.0.1'));
		expect(outcomes.filter((o) => o === 'waits').length).toBeGreaterThan(10);
		// Whoever works there every day comes in all the same, and others elsewhere do.
		expect(await tried('tobi', PASSWORD, '10.2.0.9')).toBe('in');
	});
	it('of one name from one address are slowed down after eight', async () => {
		const outcomes = [];
		for (let n = 0; n < 10; n++) outcomes.push(await tried('tobi', 'wrong', '10.2.0.9'));
		expect(outcomes.slice(0, 8)).toEqual(Array.from({ length: 8 }, () => 'wrong'));
		expect(outcomes.at(-1)).toBe('waits');
	});
});

describe('a session', () => {
	it('is somebody’s until it ends, and nobody’s from that moment on', async () => {
		const secret = await signIn(db.sql, 'tobi', PASSWORD, '10.3.0.1');
		expect(await personOf(db.sql, secret)).toMatchObject({ login: 'tobi' });
		const end = (by: string) =>
			db.owner`UPDATE session SET expires_at = now() + ${by}::interval WHERE person_id = (SELECT id FROM person WHERE login = 'tobi')`;
		await end('2 seconds');
		expect(await personOf(db.sql, secret)).toMatchObject({ login: 'tobi' });
		await end('-1 milliseconds');
		expect(await personOf(db.sql, secret)).toBeNull();
		// What has ended is swept up as somebody else signs in.
		await signIn(db.sql, 'ines', PASSWORD, HOME);
		expect(await db.sql`SELECT 1 FROM session s JOIN person p ON p.id = s.person_id AND p.login = 'tobi'`).toHaveLength(
			0
		);
	});
	it('lasts no longer than a working day', async () => {
		await signIn(db.sql, 'tobi', PASSWORD, '10.3.0.1');
		const [{ hours }] = await db.sql<{ hours: number }[]>`
			SELECT extract(epoch FROM max(s.expires_at) - now())::float8 / 3600 AS hours FROM session s JOIN person p ON p.id = s.person_id AND p.login = 'tobi'`;
		expect(hours).toBeGreaterThan(1);
		expect(hours).toBeLessThanOrEqual(24);
	});
});

describe('one’s own password', () => {
	const HERE = { secret: '', address: '10.4.0.1' };
	const to = (next: string, now = PASSWORD, again = next) =>
		changeOwnPassword(db.sql, 'lena', { now, next, again }, HERE);
	const asks = async (password: string) =>
		(await personOf(db.sql, (HERE.secret = await signIn(db.sql, 'lena', password, HERE.address))))?.asksPassword;

	it('is asked for after each one that somebody else gave, and not while a session goes on', async () => {
		await addPerson(db.sql, 'setup', { login: 'lena', name: 'Lena', role: 'assembly', password: PASSWORD });
		expect(await asks(PASSWORD)).toBe(true);
		await to('one of my own');
		expect(await personOf(db.sql, HERE.secret)).toMatchObject({ asksPassword: false });
		expect(await asks('one of my own')).toBe(false);
		await setPassword(db.sql, 'ines', 'lena', 'given once more');
		expect(await personOf(db.sql, HERE.secret)).toBeNull();
		expect(await asks('given once more')).toBe(true);
		await to('mine once more', 'given once more');
	});
	it('changes only for whoever knows the one of now, and is another one, long enough, typed twice', async () => {
		await asks('mine once more');
		await expect(to('yet another one', 'guessed')).rejects.toThrow('This is not the password');
		await expect(to('short', 'mine once more')).rejects.toThrow('at least 10');
		await expect(to('mine once more', 'mine once more')).rejects.toThrow('Choose another one');
		await expect(to('yet another one', 'mine once more', 'yet another on')).rejects.toThrow('not the same');
		expect(await asks('mine once more')).toBe(false);
		// Guessing at an open desk is slowed down as at the sign-in.
		const outcomes = [];
		for (let n = 0; n < 10; n++)
			outcomes.push(await to('yet another one', `guess ${n}`).catch((e: { status: number }) => e.status));
		expect(outcomes).toContain(429);
	});
	it('ends nobody else’s session', async () => {
		const [mine, theirs] = [HERE.secret, await signIn(db.sql, 'ines', PASSWORD, HOME)];
		const [{ id }] = (await sessionsOf(db.sql, 'ines', theirs)).filter((s) => s.here);
		await endSessions(db.sql, 'lena', mine, id);
		expect(await personOf(db.sql, theirs)).not.toBeNull();
		await endSessions(db.sql, 'lena', mine, null);
		expect(await personOf(db.sql, theirs)).not.toBeNull();
		expect(await sessionsOf(db.sql, 'lena', mine)).toMatchObject([{ here: true, address: HERE.address }]);
	});
});
