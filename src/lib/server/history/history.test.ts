import { beforeAll, describe, expect, it } from 'vitest';
import { testDatabase } from '../../../../tests/db/cluster.ts';
import { startFrom } from '../../core/marking/rule.ts';
import { savePattern } from '../numbering/patterns.ts';
import { addPerson, setActive, setPassword } from '../people/people.ts';
import { makeToken, revokeToken } from '../people/tokens.ts';
import { saveFact } from '../setup/facts.ts';
import { saveFirm } from '../setup/firm.ts';
import { changeItem, createItem } from '../setup/items.ts';
import { saveKind } from '../setup/kinds.ts';
import { addPartner, addPlace, setPlaceUse } from '../setup/places.ts';
import { savePolicy } from '../setup/policy.ts';
import { historyOf, historyOfAll, type Subject } from './history.ts';

const db = testDatabase();
/** What changed of it, oldest first: who, field, from, to. */
const told = async (subject: Subject, code: string) =>
	(await historyOf(db.sql, subject, code)).map((c) => `${c.by}: ${c.field} ${c.old} → ${c.new}`).reverse();

beforeAll(async () => {
	await addPerson(db.sql, 'admin', {
		login: 'ines',
		name: 'Ines Brandt',
		role: 'coordinator',
		password: 'a long password'
	});
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
});

describe('what is set up keeps who changed it, from what and to what', () => {
	it('an item and its marking rule', async () => {
		await changeItem(db.sql, 'ines', 'GEL', {
			name: 'Gel, clear',
			parts: [],
			rules: startFrom('at shipment only', 'lot')
		});
		const all = await told('item', 'GEL');
		expect(all).toContain('Ines Brandt: name Gel → Gel, clear');
		expect(all.filter((t) => /receipt/.test(t)).at(-1)).toMatch(
			/^Ines Brandt: asked at receipt lot required → nothing/
		);
		const before = all.length;
		await changeItem(db.sql, 'ines', 'GEL', {
			name: 'Gel, clear',
			parts: [],
			rules: startFrom('at shipment only', 'lot')
		});
		expect(await told('item', 'GEL'), 'what stays is no change').toHaveLength(before);
	});
	it('a kind of items and its rule', async () => {
		const kind = { code: 'LIQUID', name: 'Liquids', rules: startFrom('everywhere', 'lot') };
		await saveKind(db.sql, 'ines', kind);
		await saveKind(db.sql, 'ines', { ...kind, rules: startFrom('at shipment only', 'lot') }, 'LIQUID');
		expect((await told('kind', 'LIQUID')).includes('Ines Brandt: asked at receipt lot required → nothing')).toBe(true);
	});
	it('a pattern', async () => {
		const blocks = [{ kind: 'sequence', digits: 4, reset: 'never' }];
		await savePattern(db.sql, 'ines', { code: 'P', name: 'First', blocks });
		await savePattern(db.sql, 'ines', { code: 'P', name: 'Second', blocks }, 'P');
		expect(await told('pattern', 'P')).toContain('Ines Brandt: name First → Second');
	});
	it('a fact', async () => {
		const fact = { code: 'ph', name: 'pH', kind: 'number', decimals: 1, low: '6', high: '8' };
		await saveFact(db.sql, 'ines', fact);
		await saveFact(db.sql, 'ines', { ...fact, high: '9' }, 'ph');
		expect((await told('fact', 'ph')).at(-1)).toBe('Ines Brandt: high 8 → 9');
	});
	it('how strongly a check is taken', async () => {
		await savePolicy(db.sql, 'ines', { expired: 'stop' });
		expect((await told('policy', 'firm')).at(-1)).toBe('Ines Brandt: expired reason → stop');
	});
	it('places and partners', async () => {
		await addPlace(db.sql, 'ines', { code: 'QS', name: 'Quayside' });
		await setPlaceUse(db.sql, 'ines', 'QS', 'dock', true);
		await setPlaceUse(db.sql, 'ines', 'QS', 'dock', true);
		expect((await told('place', 'QS')).filter((t) => t.includes('dock')).slice(1)).toEqual([
			'Ines Brandt: dock false → true'
		]);
		await addPartner(db.sql, 'ines', { code: 'S1', name: 'Supplier', kind: 'supplier' });
		expect(await told('partner', 'S1')).toContain('Ines Brandt: kind null → supplier');
	});
	it('the firm’s time zone', async () => {
		await saveFirm(db.sql, 'ines', { zone: 'Asia/Tokyo' });
		expect(await told('firm', 'firm')).toEqual(['Ines Brandt: zone Europe/London → Asia/Tokyo']);
	});
	it('people and their rights, without their passwords', async () => {
		await addPerson(db.sql, 'ines', { login: 'tobi', name: 'Tobi', role: 'assembly', password: 'another password' });
		await setActive(db.sql, 'ines', 'tobi', false);
		await setPassword(db.sql, 'ines', 'tobi', 'a third password');
		const all = await told('person', 'tobi');
		expect(all).toEqual(
			expect.arrayContaining(['Ines Brandt: role null → assembly', 'Ines Brandt: active true → false'])
		);
		expect(all.join(' ')).toContain('a new one');
		expect(all.join(' ')).not.toMatch(/third password|another password|argon/);
	});
	it('an access for programs, without its secret', async () => {
		const secret = await makeToken(db.sql, 'scales', 'assembly', 'ines');
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM api_token WHERE name = 'scales'`;
		await revokeToken(db.sql, 'ines', id);
		const all = JSON.stringify(await historyOfAll(db.sql, 'token'));
		expect(all).toContain('revoked');
		expect(all).not.toContain(secret);
	});
	it('and nobody takes a line of it out or changes it', async () => {
		await expect(Promise.resolve(db.sql`DELETE FROM setup_change`)).rejects.toThrow();
		await expect(Promise.resolve(db.sql`UPDATE setup_change SET changed_by = 'x'`)).rejects.toThrow();
	});
});
