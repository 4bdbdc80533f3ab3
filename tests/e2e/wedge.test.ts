import fc from 'fast-check';
import type { Page } from 'playwright';
import { describe, expect, it } from 'vitest';
import { startApp } from './app.ts';
import { entry, foot, log, openOrder, paste, type } from './sheet.ts';

const app = startApp();

/** A code, and the pause before each of its keys, in ms. */
interface Code {
	text: string;
	pauses: number[];
}
/** Codes that nobody knows: as slow as a page can make a scanner or a hand can type, or a scanner that was held up here and there. */
const codes = (seed: number): Code[] =>
	fc
		.sample(
			fc.tuple(
				fc.stringMatching(/^[A-Z][A-Z0-9]-[0-9]{2,5}$/),
				fc.array(fc.oneof(fc.constant(4), fc.integer({ min: 0, max: 400 })), { minLength: 9, maxLength: 9 }),
				fc.array(
					fc.oneof(
						{ weight: 6, arbitrary: fc.constant(4) },
						{ weight: 1, arbitrary: fc.integer({ min: 0, max: 400 }) }
					),
					{
						minLength: 9,
						maxLength: 9
					}
				),
				fc.boolean()
			),
			{ numRuns: 4, seed }
		)
		.map(([text, hand, scanner, scanned], n) => ({ text: `${text}${n}`, pauses: scanned ? scanner : hand }));

/** What reached the server as a number: asked at the scan line, scanned into a sheet, or typed into a row of it. */
function heard(page: Page): string[] & { settled?: () => Promise<void> } {
	const all: string[] & { settled?: () => Promise<void> } = [];
	let open = 0;
	const ours = (url: string) => /\/(find|scan|sheet)(\?|$)/.test(url);
	page.on('request', (r) => void (ours(r.url()) && open++));
	for (const end of ['requestfinished', 'requestfailed'] as const)
		page.on(end as 'requestfinished', (r) => void (ours(r.url()) && open--));
	// Two pictures later whoever heard the keys has asked what there is to ask.
	const drawn = () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
	all.settled = async () => {
		await page.evaluate(drawn);
		await expect.poll(() => open).toBe(0);
		await page.evaluate(drawn);
	};
	page.on('request', (r) => {
		const url = new URL(r.url());
		if (url.pathname === '/find') all.push(url.searchParams.get('q')!);
		if (r.method() !== 'POST' && r.method() !== 'PUT') return;
		const sent: unknown = /\/(scan|sheet)$/.test(url.pathname) ? r.postDataJSON() : null;
		const rows = [sent].flat() as { text?: string; data?: { lot?: string; serial?: string } }[];
		for (const s of rows.flatMap((x) => (x && 'rows' in x ? (x.rows as typeof rows) : x)))
			all.push(...[s?.text ?? s?.data?.serial ?? s?.data?.lot].filter((t) => t !== undefined));
	});
	return all;
}
/** Presses real keys, each after its pause. */
async function press(page: Page, { text, pauses }: Code) {
	for (const [i, key] of [...text, 'Enter'].entries()) {
		await new Promise((done) => setTimeout(done, pauses[i % pauses.length]));
		await page.keyboard.press(key);
	}
}
/** Everything that stands in fields for text. */
const fields = (page: Page) =>
	page.evaluate(() => [...document.querySelectorAll('input')].map((f) => f.value).filter((v) => /[A-Z]/.test(v)));

/** Presses codes with the cursor wherever it was put: each arrives whole and once, stands whole where it was typed, or changed nothing. */
async function holds(page: Page, focus: () => Promise<unknown>, seed: number) {
	const all = heard(page);
	for (const code of codes(seed)) {
		await focus();
		const before = { fields: await fields(page), heard: all.length };
		await press(page, code);
		await all.settled!();
		const now = all.slice(before.heard);
		const what = `${code.text} with pauses ${code.pauses.join(' ')}: sent ${now.join(', ')}`;
		// A row of the sheet is sent with what stood in it before.
		for (const text of now) expect([code.text, 'WDG-0001', ...before.fields], what).toContain(text);
		expect(now.filter((t) => t === code.text).length, what).toBeLessThanOrEqual(1);
		for (const value of await fields(page)) expect([code.text, ...before.fields], what).toContain(value);
	}
}

describe('a code whose keys come with pauses', () => {
	const nothing = (page: Page) => page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
	it('into the scan line, and where nothing has the cursor', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/stock');
		const line = page.getByLabel('Scan line');
		const clear = async () => {
			await page.keyboard.press('Escape');
			await line.fill('');
		};
		await holds(page, async () => (await clear(), await line.focus()), 1);
		await holds(page, async () => (await clear(), await nothing(page)), 2);
	});
	it('into a field of a sheet, its grid, a question before an act, and nothing on its page', async () => {
		const { page } = await openOrder(app, { lines: [['BOARD', '40']] });
		await type(page, 'Sensor board VB', 'Lot', 'WDG-1');
		await type(page, 'Sensor board VB', 'First serial, count', 'WDG-0001, 2');
		await page.getByLabel('Lot, row 1', { exact: true }).waitFor();
		const fill = entry(page, 'Sensor board VB').getByLabel('First serial, count');
		await holds(page, async () => (await fill.fill(''), await fill.focus()), 3);
		// Chosen whole, as Tab does: keys that come so slowly that they are a hand's take the place of what stood there.
		await holds(page, () => page.getByLabel('Lot, row 1', { exact: true }).selectText(), 4);
		await holds(page, () => nothing(page), 5);
	});
	it('while a question is asked', async () => {
		const page = await app.signIn('ines');
		const [mark] = await app.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'QR-26-0417'`;
		await page.goto(`${app.base}/register/${mark.id}`);
		await page.getByRole('button', { name: 'Put on hold' }).first().click();
		const why = page.getByRole('dialog').getByRole('textbox').first();
		await holds(
			page,
			async () => {
				if (!(await why.isVisible())) await page.getByRole('button', { name: 'Put on hold' }).first().click();
				await why.fill('');
				await page
					.getByRole('dialog')
					.getByRole('button', { name: /Leave|Cancel|Back/ })
					.first()
					.focus();
			},
			6
		);
	});
	it('while the page is still coming', async () => {
		for (const given of codes(7)) {
			// What is typed and not entered is remembered with its order.
			const { page, code } = await openOrder(app, { lines: [['BOARD', '40']] });
			const all = heard(page);
			await page.route('**/_app/immutable/**', async (r) => {
				await new Promise((done) => setTimeout(done, 700));
				await r.continue().catch(() => undefined);
			});
			const before = all.length;
			const there = page.waitForEvent('domcontentloaded');
			const coming = page.goto(`${app.base}/inbound/${code}`);
			await there;
			await press(page, given);
			await coming;
			await all.settled!();
			for (const text of all.slice(before)) expect(text, given.text).toBe(given.text);
			for (const value of await fields(page)) expect([given.text, code], given.text).toContain(value);
		}
	});
	it('while a long sheet is checked', async () => {
		const { page } = await openOrder(app, { lines: [['BOARD', '3000']] });
		await type(page, 'Sensor board VB', 'Lot', 'WDG-2');
		const many = Array.from({ length: 1500 }, (_, n) => `WDL-${String(3 * n).padStart(5, '0')}`).join('\n');
		await paste(page, 'Sensor board VB', 'First serial, count', many);
		await page.getByText('1,500 numbers read.').waitFor();
		const fill = entry(page, 'Sensor board VB').getByLabel('First serial, count');
		await holds(page, async () => (await fill.fill(''), await fill.focus()), 8);
		await expect.poll(() => foot(page).getByText('Checking all of it').count()).toBe(0);
	});
	it('that the simulated scanner sends while the page is busy', async () => {
		const { page } = await openOrder(app, { lines: [['BOARD', '40']] });
		await type(page, 'Sensor board VB', 'Lot', 'WDG-3');
		await page.getByRole('button', { name: 'Scanner' }).first().click();
		await page.getByLabel('Code', { exact: true }).fill('WDS-0077');
		await page.evaluate(() => {
			// Nothing else is done here for a while, again and again.
			const until = performance.now() + 3000;
			const busy = () => {
				const end = performance.now() + 120;
				while (performance.now() < end);
				if (performance.now() < until) setTimeout(busy, 1);
			};
			setTimeout(busy, 30);
		});
		await page.getByRole('button', { name: 'Scan it' }).click();
		await log(page).getByText('WDS-0077 into line 1').first().waitFor();
	});
});
