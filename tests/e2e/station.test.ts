import { randomUUID } from 'node:crypto';
import type { Page } from 'playwright';
import { beforeAll, describe, expect, it } from 'vitest';
import { cardText } from '../../src/lib/core/codes/card.ts';
import { createDocument } from '../../src/lib/server/document/create.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { cardsOf, drawForCards, findMade } from '../../src/lib/server/production/cards.ts';
import { savePattern } from '../../src/lib/server/numbering/patterns.ts';
import { createItem } from '../../src/lib/server/setup/items.ts';
import { saveStation } from '../../src/lib/server/setup/stations.ts';
import { startApp } from './app.ts';
import { accessible, scan } from './sheet.ts';

const app = startApp();
const ines = { name: 'ines', role: 'coordinator', source: 'screen' } as const;
const PARTS = ['PUMP-A', 'PUMP-B', 'PUMP-C', 'PUMP-D'];

const said = (page: Page, text: string | RegExp) => page.locator('section.said').getByText(text).first().waitFor();
/** Pumps with four numbered parts each, their serials drawn, and parts for all of them at the line. */
async function pumps(qty: number, { parts = PARTS, item = 'PUMP', review = true } = {}) {
	const code = await createDocument(app.sql, 'ines', {
		...{ kind: 'production', place: 'QS/LINE1', review, lines: [{ item, qty: String(qty) }] }
	});
	const order = await findMade(app.sql, code);
	await drawForCards(app.sql, 'ines', order);
	const serials = (await cardsOf(app.sql, order)).cards.map((c) => c.serial);
	const number = (part: string, n: number) => `${part}-${code}-${n}`;
	await book(app.sql, ines, {
		...{ key: randomUUID(), kind: 'receipt', at: new Date().toISOString(), partner: 'VARNHOLT' },
		movements: parts.flatMap((part) =>
			serials.map((_s, n) => ({ item: part, serial: number(part, n), qty: '1', from: '@supplier', to: 'QS/LINE1' }))
		)
	});
	return { code, serials, number, card: (n: number) => cardText({ order: code, line: 1, serial: serials[n] }, null) };
}
beforeAll(async () => {
	await savePattern(app.sql, 'ines', {
		...{ code: 'PUMP', name: 'Pumps' },
		blocks: [
			{ kind: 'text', text: 'PP-' },
			{ kind: 'sequence', digits: 4, reset: 'never' }
		]
	});
	for (const code of PARTS)
		await createItem(app.sql, 'ines', { code, name: `Part ${code.slice(-1)}`, unit: 'each', tracking: 'serial' });
	const made = { unit: 'each', tracking: 'serial', runMode: 'unit', serialPattern: 'PUMP' } as const;
	await createItem(app.sql, 'ines', {
		...{ code: 'PUMP', name: 'Pump', ...made, parts: PARTS.map((item) => ({ item, qty: '1' })) }
	});
	await createItem(app.sql, 'ines', {
		code: 'PUMP1',
		name: 'Small pump',
		...made,
		parts: [{ item: 'PUMP-A', qty: '1' }]
	});
	await saveStation(app.sql, 'ines', { code: 'T1', name: 'Bench 1', place: 'QS/LINE1', review: false }, true);
	await saveStation(app.sql, 'ines', { code: 'T2', name: 'Bench 2', place: 'QS/LINE2', review: false }, true);
});

describe('at a station', () => {
	it('one part is tied to one unit by two scans and nothing else', async () => {
		const { code, serials, card, number } = await pumps(1, { parts: ['PUMP-A'], item: 'PUMP1', review: false });
		const page = await app.signIn('rhea');
		await page.goto(`${app.base}/station/T1`);
		await accessible(page);
		await scan(page, card(0));
		await page.getByRole('heading', { name: serials[0] }).waitFor();
		await scan(page, number('PUMP-A', 0));
		await said(page, `${serials[0]} is booked`);
		await accessible(page);
		const pairs = await app.sql`SELECT 1 FROM pairing p JOIN mark m ON m.id = p.made_id JOIN mark k ON k.id = p.part_id
			WHERE m.number = ${serials[0]} AND k.number = ${number('PUMP-A', 0)} AND p.evidence = 'scanned'`;
		expect(pairs).toHaveLength(1);
		const scans = await app.sql`SELECT 1 FROM station_scan s JOIN orders o ON o.id = s.order_id WHERE o.code = ${code}`;
		expect(scans).toHaveLength(2);
	});

	it('two people put twelve units together; one browser dies; nothing is lost; all is reviewed and booked', async () => {
		const { code, serials, card, number } = await pumps(12);
		const [rhea, second] = [await app.signIn('rhea'), await app.signIn('ines')];
		await rhea.goto(`${app.base}/station/T1`);
		await second.goto(`${app.base}/station/T2`);
		const unit = async (page: Page, n: number, parts = PARTS) => {
			await scan(page, card(n));
			await page.getByRole('heading', { name: serials[n] }).waitFor();
			// In another order than the parts list's.
			for (const part of [...parts].reverse()) {
				await scan(page, number(part, n));
				await said(page, number(part, n));
			}
		};
		const [one, other] = [
			[0, 1, 2, 3, 4],
			[6, 7, 8, 9, 10, 11]
		];
		await Promise.all([
			(async () => {
				for (const n of one) await unit(rhea, n);
				await unit(rhea, 5, PARTS.slice(2));
				await rhea.context().close();
			})(),
			(async () => {
				for (const n of other) await unit(second, n);
			})()
		]);
		// Another browser goes on where the first one died.
		const again = await app.signIn('rhea', { width: 400, height: 800 });
		await again.goto(`${app.base}/station/T1`);
		await scan(again, card(5));
		await said(again, `${serials[5]}: 2 of 4 parts are missing.`);
		await accessible(again);
		for (const part of PARTS.slice(0, 2)) {
			await scan(again, number(part, 5));
			await said(again, number(part, 5));
		}
		await said(again, 'waits for its review');

		const page = await app.signIn('ines');
		await page.goto(`${app.base}/production/review?order=${code}`);
		await page.getByText('12 of 12 shown.').waitFor();
		const row = page.getByRole('row', { name: serials[3] });
		await row
			.getByText(/Rhea Sandoval, .*, scanned/)
			.first()
			.waitFor();
		await accessible(page);
		await row.getByRole('button', { name: 'Send back' }).press('Enter');
		await page.getByLabel('What is to be mended').fill('A screw is loose');
		await page.keyboard.press('Enter');
		await page.getByText(`${serials[3]} is sent back: A screw is loose`).waitFor();
		await page.getByRole('button', { name: 'Book 11 units' }).press('Enter');
		await page.getByText(`11 units of ${code} are booked.`).waitFor();
		await page.goto(`${app.base}/production/review?order=${code}&state=back`);
		await page.getByText('A screw is loose').waitFor();
		await page.getByRole('button', { name: `Take as it is ${serials[3]}` }).press('Enter');
		await page.getByText(`${serials[3]} is ready to be booked.`).waitFor();
		await page.goto(`${app.base}/production/review?order=${code}`);
		await page.getByRole('button', { name: 'Book 1 unit' }).press('Enter');
		await page.getByText(`1 unit of ${code} is booked.`).waitFor();
		const pairs = await app.sql<{ made: string; part: string }[]>`
			SELECT m.number AS made, k.number AS part FROM pairing p JOIN mark m ON m.id = p.made_id JOIN mark k ON k.id = p.part_id WHERE m.number = ANY(${serials})`;
		expect(pairs.map((p) => `${p.made} ${p.part}`).sort()).toEqual(
			serials.flatMap((s, n) => PARTS.map((part) => `${s} ${number(part, n)}`)).sort()
		);
	});

	it('what is scanned while the network is gone waits there, says so, and goes in once', async () => {
		const { code, serials, card, number } = await pumps(1);
		const page = await app.signIn('rhea', { width: 400, height: 800 });
		await page.goto(`${app.base}/station/T1`);
		await scan(page, card(0));
		await page.getByRole('heading', { name: serials[0] }).waitFor();
		await page.context().setOffline(true);
		for (const part of PARTS.slice(0, 3)) await scan(page, number(part, 0));
		await page.getByText('3 scans wait.').waitFor();
		await page.context().setOffline(false);
		await page.getByText('3 scans wait.').waitFor({ state: 'hidden' });
		await page.getByRole('list', { name: 'Parts, 3 of 4 in' }).waitFor();
		// What is reloaded shows what stood there.
		await page.reload();
		await page.getByRole('list', { name: 'Parts, 3 of 4 in' }).waitFor();
		const scans = await app.sql<{ text: string; taken: boolean }[]>`
			SELECT s.text, s.taken FROM station_scan s JOIN orders o ON o.id = s.order_id WHERE o.code = ${code}`;
		expect(scans).toHaveLength(4);
		expect(scans.every((s) => s.taken)).toBe(true);
	});

	it('after a card that is not taken nothing goes into the unit before it; parts are taken out one by one', async () => {
		const { serials, card, number } = await pumps(1);
		const page = await app.signIn('rhea');
		await page.goto(`${app.base}/station/T1`);
		await scan(page, card(0));
		await scan(page, number('PUMP-A', 0));
		await page.getByRole('button', { name: `Take out ${number('PUMP-A', 0)}` }).press('Enter');
		await said(page, `${number('PUMP-A', 0)} is taken back out of ${serials[0]}.`);
		await scan(page, cardText({ order: 'MO-NEVER', line: 1, serial: 'X' }, null));
		await said(page, 'There is no order MO-NEVER.');
		await scan(page, number('PUMP-A', 0));
		await said(page, 'is no work card. Scan the card of the unit first');
		const held = await app.sql`SELECT 1 FROM draft_row WHERE data ->> 'unit' = ${serials[0]}`;
		expect(held).toHaveLength(0);
		// A label that cannot be read is typed, and stands as entered.
		await page.getByLabel('A label that cannot be read').fill(serials[0]);
		await page.keyboard.press('Enter');
		await page.getByRole('heading', { name: serials[0] }).waitFor();
		await page.getByLabel('A label that cannot be read').fill(number('PUMP-B', 0));
		await page.keyboard.press('Enter');
		await page.getByRole('list', { name: 'Parts, 1 of 4 in' }).waitFor();
		const [row] = await app.sql<{ data: object }[]>`SELECT data FROM draft_row WHERE data ->> 'unit' = ${serials[0]}`;
		expect(row.data).not.toHaveProperty('scanned');
	});
});

describe('at a desk', () => {
	it('cards are printed and counted, parts entered from a pasted table', async () => {
		const { code, serials, number } = await pumps(2);
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/production/${code}`);
		await page.getByRole('link', { name: 'Work cards' }).click();
		await page.getByRole('button', { name: 'Print 2 labels' }).click();
		await page.getByText('2 cards sent to the printer').waitFor();
		await page.getByRole('row', { name: serials[0] }).getByText('1', { exact: true }).waitFor();
		await page.getByLabel(`Card of ${serials[1]}`).check({ force: true });
		await page.getByLabel('The order’s own card').check({ force: true });
		const [pdf] = await Promise.all([
			page.waitForEvent('download'),
			page.getByRole('button', { name: '2 sheets as PDF' }).press('Enter')
		]);
		expect(pdf.suggestedFilename()).toBe(`cards-${code}.pdf`);
		// What is printed is counted, and wanted no more.
		await page.getByRole('row', { name: serials[1] }).getByText('2', { exact: true }).waitFor();
		await page.getByText('The order’s own card (printed 1 time)').waitFor();
		expect(await page.getByRole('button', { name: '0 sheets as PDF' }).isDisabled()).toBe(true);
		await accessible(page);
		await page.goto(`${app.base}/production/${code}/pairs`);
		const table = ['Unit\tPart', ...PARTS.map((p) => `${serials[0]}\t${number(p, 0)}`), `${serials[1]}\tNO-SUCH`].join(
			'\n'
		);
		await page.getByLabel('Unit, part, quantity, bin').fill(table);
		await page.getByRole('button', { name: 'Check 5 rows' }).click();
		await page.getByRole('row', { name: 'NO-SUCH' }).getByText('is not known as a part').waitFor();
		await accessible(page);
		await page.getByRole('button', { name: 'Put 4 in' }).click();
		await page.getByText('4 parts are in; 1 unit has all parts now.').waitFor();
		await page.goto(`${app.base}/production/review?order=${code}`);
		await page.getByRole('row', { name: serials[0] }).getByText('entered').first().waitFor();
		// A card is found by the scan line too: its order, or the unit once it is made.
		await page.getByLabel('Scan line').fill(cardText({ order: code, line: 1, serial: serials[1] }, null));
		await page.keyboard.press('Enter');
		await page.waitForURL(`**/production/${code}`);
	});
});
