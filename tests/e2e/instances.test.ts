import { randomUUID } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { book } from '../../src/lib/server/ledger/book.ts';
import { findingsOf, ines } from '../db/cluster.ts';
import { startApp } from './app.ts';

const app = startApp();
const LOOKS = 16;

describe('two instances on one database', () => {
	it('answer every page of a look alike while goods leave, and each look is of the moment that it names', async () => {
		const [lot] = await app.sql<{ id: string; number: string; item: string; place: string; qty: string }[]>`
			SELECT k.id, k.number, i.code AS item, p.code AS place, trim_scale(b.qty)::text AS qty FROM mark_now k JOIN item i ON i.id = k.item_id AND i.decimals = 0
			JOIN balance b ON b.mark_id = k.id AND b.qty > 60 AND NOT b.virtual JOIN place p ON p.id = b.place_id AND NOT p.transit
			WHERE k.kind = 'lot' AND k.status = 'released' AND k.owner IS NULL AND (k.expires_on IS NULL OR k.expires_on > now() + interval '2 years') ORDER BY b.qty DESC LIMIT 1`;
		const bases = [app.base, await app.also()];
		const page = await app.signIn('ines');
		const token = await app.token('auditor');
		const look = async (base: string, ledgerSize: number, part: string) => {
			const answer = await page.request.post(`${base}/trace/look`, {
				headers: { origin: base },
				data: { look: randomUUID(), mark: lot.id, direction: 'forward', ledgerSize, part, want: 'all' }
			});
			expect(answer.status()).toBe(200);
			return JSON.stringify(await answer.json());
		};
		const asked = async (base: string) => {
			const query = `direction=forward&item=${lot.item}&lot=${encodeURIComponent(lot.number)}`;
			const answer = await fetch(`${base}/api/v1/trace?${query}`, { headers: { authorization: `Bearer ${token}` } });
			const { ledgerSize, where } = (await answer.json()) as {
				ledgerSize: number;
				where: { state: string; lot: string | null; qty: string }[];
			};
			const here = where.filter((w) => w.state === 'on hand' && w.lot === lot.number);
			return { ledgerSize, onHand: here.reduce((sum, w) => sum + Number(w.qty), 0) };
		};
		let gone = 0;
		let looking = true;
		const leaving = (async () => {
			while (looking && gone < 50) {
				await book(app.sql, ines, {
					...{
						key: randomUUID(),
						kind: 'shipment',
						at: new Date().toISOString(),
						partner: 'CARRAWAY',
						reason: 'one by one'
					},
					movements: [{ item: lot.item, lot: lot.number, qty: '1', from: lot.place, to: '@customer' }]
				});
				gone++;
				await new Promise((done) => setTimeout(done, 150));
			}
		})();
		const begun = [];
		for (let n = 0; n < LOOKS; n++) {
			const at = await asked(bases[n % 2]);
			const pages = ['where', 'numbers', 'customers', 'where'] as const;
			const answers = await Promise.all(
				pages.map(async (part) => [
					part,
					await look(bases[0], at.ledgerSize, part),
					await look(bases[1], at.ledgerSize, part)
				])
			);
			for (const [part, one, other] of answers) expect([n, part, other]).toEqual([n, part, one]);
			begun.push({ ...at, where: answers[0][1] });
		}
		looking = false;
		await leaving;
		expect(gone).toBeGreaterThan(3);
		// Later looks saw less of it; asked again, each says what it said.
		expect(new Set(begun.map((b) => b.onHand)).size).toBeGreaterThan(2);
		for (const [n, b] of begun.entries()) {
			expect(await look(bases[(n + 1) % 2], b.ledgerSize, 'where')).toBe(b.where);
			if (n) expect(b.onHand).toBeLessThanOrEqual(begun[n - 1].onHand);
		}
		// What is still to come is refused, with a way back to now.
		const far = await page.request.get(`${app.base}/trace?mark=${lot.id}&direction=forward&ledgerSize=99999999`);
		expect([far.status(), await far.text()]).toEqual([422, expect.stringContaining('Trace it as it is now')]);
		const call = `${app.base}/api/v1/trace?direction=forward&item=${lot.item}&lot=${encodeURIComponent(lot.number)}&ledgerSize=99999999`;
		expect((await fetch(call, { headers: { authorization: `Bearer ${token}` } })).status).toBe(422);
		expect(await findingsOf(app.sql)).toEqual([]);
	});
});
