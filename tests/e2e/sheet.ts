import AxeBuilder from '@axe-core/playwright';
import type { Page } from 'playwright';
import { expect } from 'vitest';
import { createDocument } from '../../src/lib/server/document/create.ts';
import type { App } from './app.ts';

/** The parts of a marking sheet as a person finds them, and what a person does there. */
export const foot = (page: Page) => page.getByRole('region', { name: 'What is missing' });
export const entry = (page: Page, line: string) => page.getByRole('group', { name: `Enter numbers for ${line}` });
export const log = (page: Page) => page.getByRole('log');

/** Fills a field and goes on with Enter. */
export const type = async (page: Page, line: string, field: string, text: string) => {
	const input = entry(page, line).getByLabel(field, { exact: true });
	await input.fill(text);
	await input.press('Enter');
};
/** Finds one of many by a part of its name or its code, takes the first with the arrow and Enter, and goes on. */
export async function seek(page: Page, field: string, part: string) {
	await page.getByRole('combobox', { name: field, exact: true }).fill(part);
	for (const key of ['ArrowDown', 'Enter', 'Tab']) await page.keyboard.press(key);
}
/** Goes to the scan line as a hand does it: a moment after the key, when it is no code that begins so. */
export async function toScanLine(page: Page) {
	await page.keyboard.press('/');
	await page.evaluate(() => new Promise((done) => setTimeout(done, 60)));
}
/** Types as a person: slower than a scanner. */
export const typed = (page: Page, text: string) => page.keyboard.type(text, { delay: 60 });
/** Puts text on a field as a paste from a spreadsheet does. */
export const paste = (page: Page, line: string, field: string, text: string) =>
	entry(page, line)
		.getByLabel(field, { exact: true })
		.evaluate((el, t) => {
			const data = new DataTransfer();
			data.setData('text', t);
			el.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
		}, text);
/**
 * Keys as a keyboard wedge sends them. Each carries the moment at which it was pressed, as the operating system gives it to
 * a real one: they are made before the page takes the first, so that a busy machine does not turn a scan into typing.
 * @param types whether what is not taken as a scan is written where the cursor stands
 */
const press = (page: Page, text: string, types: boolean) =>
	page.evaluate(
		({ keys, types }) => {
			const pressed = keys.map((key) => new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
			for (const event of pressed) {
				const el = document.activeElement ?? document.body;
				if (!el.dispatchEvent(event) || !types || event.key.length > 1) continue;
				// The key is written where the cursor stands after whoever heard it.
				const field = document.activeElement as HTMLInputElement;
				field.setRangeText(event.key, field.selectionStart!, field.selectionEnd!, 'end');
				field.dispatchEvent(new Event('input', { bubbles: true }));
			}
		},
		{ keys: [...text, 'Enter'], types }
	);
/** A scan into the field where the cursor stands. */
export const wedge = (page: Page, text: string) => press(page, text, true);
/** A scan where nothing is to be typed. */
export const scan = (page: Page, text: string) => press(page, text, false);

/** An order of its own, opened in its area, with its first line ready. */
export async function openOrder(
	app: App,
	order: { kind?: 'purchase' | 'production' | 'sale'; partner?: string; place?: string; lines: [string, string][] },
	login = 'tobi'
): Promise<{ page: Page; code: string }> {
	const { kind = 'purchase', lines } = order;
	const code = await createDocument(app.sql, 'ines', {
		kind,
		partner: kind === 'production' ? null : (order.partner ?? (kind === 'sale' ? 'SKEN' : 'VARNHOLT')),
		place: order.place ?? 'QS/DOCK',
		lines: lines.map(([item, qty]) => ({ item, qty }))
	});
	const page = await app.signIn(login);
	await page.goto(`${app.base}/${{ purchase: 'inbound', production: 'production', sale: 'outbound' }[kind]}/${code}`);
	await foot(page).waitFor();
	return { page, code };
}
/** Waits until a sheet is booked. @returns how many movements its document has in all */
export async function booked(app: App, page: Page, code: string): Promise<number> {
	await page.getByText(/Booked on \S+: \d/).waitFor();
	const [{ n }] = await app.sql<
		{ n: number }[]
	>`SELECT count(*)::int AS n FROM movement m JOIN event e ON e.id = m.event_id WHERE e.document = ${code}`;
	return n;
}
/** The rows of an order's sheet as the server holds them, in the order they were entered. */
export const rowsOf = async (app: App, code: string) =>
	(
		await app.sql<
			{ data: Record<string, unknown> }[]
		>`SELECT d.data FROM draft_row d JOIN orders o ON o.id = d.order_id WHERE o.code = ${code} ORDER BY d.created_at, d.id`
	).map((r) => r.data);
/**
 * What checks a page. No page frames another, so it needs no second page to join what its frames say: half the time. Only what
 * is wrong is told.
 */
export const axeOn = (page: Page) => new AxeBuilder({ page }).options({ resultTypes: ['violations'] }).setLegacyMode();
/** A page breaks no rule of WCAG 2.2 AA that a program can check. */
export const accessible = async (page: Page) =>
	expect((await axeOn(page).withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']).analyze()).violations).toEqual([]);

/** Presses the button of a sheet that asks several reasons, and gives each the same. */
export async function bookSaying(page: Page, reason: string) {
	await page.keyboard.press('Control+Enter');
	const dialog = page.getByRole('dialog');
	for (const field of await dialog.getByPlaceholder('Why, kept in the ledger').all()) await field.fill(reason);
	await dialog.getByRole('button').last().click();
}
/** Presses the button of a sheet of which something is only suggested, and says that it goes so. */
export async function bookAsSuggested(page: Page, verb: string) {
	await foot(page)
		.getByRole('button', { name: `${verb} as suggested…` })
		.click();
	await page
		.getByRole('dialog')
		.getByRole('button', { name: `${verb} all of it` })
		.click();
}
