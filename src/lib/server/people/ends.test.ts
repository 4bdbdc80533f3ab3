import { beforeAll, describe, expect, it } from 'vitest';
import { testDatabase } from '../../../../tests/db/cluster.ts';
import { addDuration } from '../../core/dates/dates.ts';
import { firmToday } from '../list/page.ts';
import { makeToken, tokenOwner } from './tokens.ts';

const db = testDatabase();
let today = '';
beforeAll(async () => void (today = await firmToday(db.sql)));
const ends = async (name: string) =>
	(await db.sql<{ ends: string | null }[]>`SELECT ends_on AS ends FROM api_token WHERE name = ${name}`)[0]?.ends;

describe('an access for programs that ends by itself', () => {
	it('is good on its last day, and opens nothing from the next on', async () => {
		const secret = await makeToken(db.sql, 'scales', 'auditor', 'ines', addDuration(today, 'P3D'));
		expect(await ends('scales')).toBe(addDuration(today, 'P3D'));
		const last = await makeToken(db.sql, 'press', 'auditor', 'ines', today);
		expect(await tokenOwner(db.sql, last)).toMatchObject({ role: 'auditor' });
		await db.sql`UPDATE api_token SET ends_on = (${today}::text::date - 1) WHERE name = 'scales'`;
		expect(await tokenOwner(db.sql, secret)).toBeNull();
	});
	it('has no end where none is given, and none that is over or no day', async () => {
		await makeToken(db.sql, 'robot', 'auditor', 'ines');
		expect(await ends('robot')).toBeNull();
		await expect(makeToken(db.sql, 'late', 'auditor', 'ines', '2020-01-31')).rejects.toThrow(
			'31 Jan 2020 is over. Give a day from today on.'
		);
		await expect(makeToken(db.sql, 'late', 'auditor', 'ines', '2027-02-30')).rejects.toThrow('no 2027-02-30');
		expect(await ends('late')).toBeUndefined();
	});
});
