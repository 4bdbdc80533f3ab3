import ExcelJS from 'exceljs';
import Papa from 'papaparse';
import type { Page } from 'playwright';
import { describe, expect, it } from 'vitest';
import { bySpan, narrows, shownColumns, sorts, type Column } from '../../src/lib/core/list/list.ts';
import { lists } from '../../src/lib/server/lists.ts';
import { words } from '../pdf.ts';
import { startApp } from './app.ts';

const app = startApp();
/** Where each list stands. A list that is in no page fails here. */
const pages: Record<string, string> = {
	purchase: '/inbound',
	production: '/production',
	sale: '/outbound',
	issue: '/stock/issues',
	count: '/stock/counts',
	return: '/inbound/returns',
	'supplier-return': '/outbound/returns',
	counter: '/outbound/counter',
	invoices: '/outbound/invoices',
	numbering: '/stock/numbering',
	'adjust-in': '/stock/adjust-in',
	'adjust-out': '/stock/adjust-out',
	adjusted: '/stock/adjusted',
	stock: '/stock',
	totals: '/stock/totals',
	register: '/register',
	events: '/events',
	moved: '/events/moved',
	contents: '/trace/contents',
	labels: '/devices',
	mail: '/devices/mail/sent',
	mailbox: '/devices/mail',
	items: '/setup/items',
	kinds: '/setup/kinds',
	fields: '/setup/facts',
	patterns: '/setup/patterns',
	drawn: '/setup/drawn',
	partners: '/setup/partners',
	places: '/setup/places',
	jobs: '/setup/jobs',
	stations: '/setup/stations',
	ways: '/setup/ways',
	reasons: '/setup/reasons',
	repack: '/stock/repacking',
	transfer: '/stock/transfers',
	people: '/setup/people',
	access: '/setup/tokens'
};
/** What is asked so that the list holds something in the demo. */
const asked: Record<string, string> = {
	count: 'which=all',
	return: 'which=all',
	'supplier-return': 'which=all',
	counter: 'which=all',
	numbering: 'which=all',
	'adjust-in': 'which=all',
	'adjust-out': 'which=all',
	purchase: 'which=all',
	production: 'which=all',
	sale: 'which=all',
	issue: 'which=all',
	repack: 'which=all',
	transfer: 'which=all'
};
/** One of each sort: of documents, worked out from the ledger, of what happened, of what is set up, of whom only some may see. */
const WHOLE = ['purchase', 'stock', 'register', 'moved', 'partners', 'people'];
const who = (key: string) => (key === 'people' || key === 'access' ? 'admin' : 'ines');

const table = (page: Page, title: string) => page.getByRole('table', { name: title, exact: true });
/** The texts of a column, in the order shown. */
async function column(page: Page, title: string, label: string): Promise<string[]> {
	const heads = (await table(page, title).locator('thead th').allInnerTexts()).map((t) => t.trim());
	return table(page, title)
		.locator('tbody tr')
		.evaluateAll((rows, at) => rows.map((r) => (r.children[at] as HTMLElement).innerText.trim()), heads.indexOf(label));
}

it('every list has a page', () => expect(Object.keys(pages).sort()).toEqual([...lists.keys()].sort()));

const start = (key: string) => `${pages[key]}?${asked[key] ?? ''}`;
/** A file of a list, as its link on the page gives it. */
const fileOf = async (page: Page, name: string) =>
	page.request.get(app.base + (await page.getByRole('link', { name, exact: true }).getAttribute('href')));
const csvOf = async (page: Page) =>
	Papa.parse<string[]>((await (await fileOf(page, 'CSV')).text()).replace(/^\uFEFF/, ''), { skipEmptyLines: true })
		.data;

// All lists are one component, and each source is held against its rows without a browser.
it.each(['ines', 'admin'])(
	'every list of %s is shown, sorted by its heading, and exported as it is shown',
	async (login) => {
		await fill();
		const page = await app.signIn(login);
		for (const [key, source] of [...lists].filter(([key]) => who(key) === login)) {
			await page.goto(app.base + start(key));
			const shown = shownColumns(source.columns, null);
			expect(await table(page, source.title).locator('tbody tr').count(), `rows of ${key}`).toBeGreaterThan(0);
			const by = shown.find(sorts)!;
			const down = source.sort.key === by.key && !source.sort.down ? 'descending' : 'ascending';
			const fresh = source.sort.key !== by.key && by.kind === 'moment' ? 'descending' : down;
			await table(page, source.title).getByRole('button', { name: by.label, exact: true }).press('Enter');
			await table(page, source.title).locator(`th[aria-sort=${fresh}]`, { hasText: by.label }).waitFor();
			const csv = await csvOf(page);
			expect(csv[0], key).toEqual(shown.map((c) => c.label));
			const count = Number(await table(page, source.title).getAttribute('aria-rowcount'));
			expect(csv.length - 1, key).toBe(count);
		}
	}
);

describe.each([...lists].filter(([key]) => WHOLE.includes(key)))('the list %s', (key, source) => {
	const start = `${pages[key]}?${asked[key] ?? ''}`;
	it(`is sorted, narrowed, paged, exported, and reopened from its address: ${key}`, async () => {
		const page = await app.signIn(who(key));
		await page.goto(app.base + start);
		const shown = shownColumns(source.columns, null);
		const rows = () => table(page, source.title).locator('tbody tr').count();
		const all = await rows();
		expect(all, 'rows to work on').toBeGreaterThan(0);

		// Sorted by its heading, by keyboard, both ways; the address says so.
		const by = shown.find(sorts)!;
		await page.goto(`${app.base}${start}&sort=${by.key}`);
		const up = await column(page, source.title, by.label);
		await table(page, source.title).getByRole('button', { name: by.label, exact: true }).press('Enter');
		await table(page, source.title).locator('th[aria-sort=descending]').waitFor();
		await expect
			.poll(() => column(page, source.title, by.label))
			.not.toEqual(up.length > 1 && up[0] !== up.at(-1) ? up : []);
		expect(await table(page, source.title).locator('th[aria-sort=descending]').innerText()).toContain(by.label);

		// Narrowed by a column of text or a choice, in the form that opens; a part of what is there is left.
		await page.goto(app.base + start);
		await page.getByRole('button', { name: 'Filters', exact: true }).click();
		const text = shown.find((c): c is Column => narrows(c) && c.kind === 'text' && !bySpan(c));
		if (text) {
			const value = (await column(page, source.title, text.label)).find((t) => t && t !== '–')!;
			await page
				.getByRole('search', { name: /^Find and narrow/ })
				.getByLabel(text.label, { exact: true })
				.fill(value.slice(0, 20));
			await page.waitForURL(new RegExp(`[?&]${text.key}=`));
			await expect
				.poll(async () =>
					(await column(page, source.title, text.label)).every((t) =>
						t.toLowerCase().includes(value.slice(0, 20).toLowerCase())
					)
				)
				.toBe(true);
			// Reopened from its address: the same rows, and the filter stands in its field.
			const before = await column(page, source.title, text.label);
			await page.goto(page.url());
			expect(await column(page, source.title, text.label)).toEqual(before);
			await page
				.getByRole('button', { name: /removed from the filters/ })
				.first()
				.waitFor();
			await page.goBack();
		}
		// What nothing fits says so and offers the way out.
		await page.goto(`${app.base}${start}&find=there+is+no+such+thing`);
		await page.getByText('Nothing fits.').waitFor();
		await page.getByRole('button', { name: 'Clear all filters' }).click();
		await page.getByText('Nothing fits.').waitFor({ state: 'detached' });

		// By pages, where there is more than one.
		await page.goto(`${app.base}${start}&size=25`);
		const status = page.getByText(/^[\d,]+ to [\d,]+ of [\d,]+$/);
		if (await status.count()) {
			const first = await table(page, source.title).locator('tbody tr').first().innerText();
			await page.getByRole('link', { name: 'Next' }).click();
			await page.getByText(/^26 to /).waitFor();
			expect(await table(page, source.title).locator('tbody tr').first().innerText()).not.toBe(first);
			await page.getByRole('link', { name: 'Previous' }).click();
			await page.getByText(/^1 to 25 of /).waitFor();
			expect(await table(page, source.title).locator('tbody tr').first().innerText()).toBe(first);
		}

		// Exported as it is shown: the same columns, every row that fits.
		await page.goto(app.base + start);
		const csv = await csvOf(page);
		expect(csv[0]).toEqual(shown.map((c) => c.label));
		const count = Number(await table(page, source.title).getAttribute('aria-rowcount'));
		expect(csv.length - 1).toBe(count);
		const book = new ExcelJS.Workbook();
		await book.xlsx.load((await (await fileOf(page, 'XLSX')).body()).buffer as ArrayBuffer);
		expect(book.worksheets[0].rowCount - 1).toBe(count);
		expect((book.worksheets[0].getRow(1).values as string[]).slice(1)).toEqual(csv[0]);
	});
});

/** A label printed, an access added, numbers drawn: lists that the demo leaves empty. */
let filled = false;
async function fill() {
	if (filled) return;
	filled = true;
	const { printLabels } = await import('../../src/lib/server/labels/jobs.ts');
	const { saveKind } = await import('../../src/lib/server/setup/kinds.ts');
	const { nothing, STEPS } = await import('../../src/lib/core/marking/rule.ts');
	const { queueMail } = await import('../../src/lib/server/mail/queue.ts');
	await queueMail(app.sql, 'ines', { about: 'test', to: 'second@example.org', subject: 'Another', body: 'A mail.' });
	await expect.poll(async () => (await app.sql`SELECT 1 FROM mailbox_message`).length).toBe(2);
	await printLabels(app.sql, 'ines', { place: 'QS/A1' });
	await printLabels(app.sql, 'ines', { place: 'QS/A2' });
	await app.token('auditor');
	await saveKind(app.sql, 'ines', { code: 'ZZZ', name: 'Something else', rules: STEPS.map(nothing) });
}

describe('a person’s own columns', () => {
	it('are chosen, remembered on the next visit, exported, and are nobody else’s', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/partners');
		await page.getByRole('button', { name: 'Columns' }).click();
		await page.getByRole('group', { name: 'Columns of this list, for you' }).getByText('Open orders').click();
		await expect
			.poll(() => table(page, 'Partners').getByRole('columnheader').allInnerTexts())
			.toEqual(['Code', 'Name', 'Kind']);
		await page.reload();
		expect((await table(page, 'Partners').locator('thead th').allInnerTexts()).map((t) => t.trim())).toEqual([
			'Code',
			'Name',
			'Kind'
		]);
		const csv = await page.request.get(app.base + '/lists/partners/csv');
		expect((await csv.text()).split('\r\n')[0]).toBe('\uFEFFCode,Name,Kind');
		const other = await app.signIn('admin');
		await other.goto(app.base + '/setup/partners');
		expect(await table(other, 'Partners').locator('thead th').count()).toBe(4);
	});
	it('goes on paper, unless nobody would read that much', async () => {
		const page = await app.signIn('ines');
		const pdf = await page.request.get(app.base + '/lists/partners/pdf?kind=customer');
		expect(pdf.headers()['content-type']).toBe('application/pdf');
		const text = await words(await pdf.body());
		const [{ n }] = await app.sql<{ n: number }[]>`SELECT count(*)::int AS n FROM partner WHERE kind = 'customer'`;
		expect(text).toMatch(new RegExp(`^Partners Shows Rows Printed Kind: customer ${n} .* by Ines Falk Code Name Kind`));
		expect(text).toContain('Sken Island Fisheries');
		expect(text).not.toContain('Quillmere');
		await app.sql`INSERT INTO partner (code, name, kind) SELECT 'MANY-' || n, 'One of many', 'customer' FROM generate_series(1, 2000) n`;
		const long = await page.request.get(app.base + '/lists/partners/pdf');
		expect(long.status()).toBe(422);
		expect(await long.text()).toContain('which is what goes on paper. Narrow the list, or export it as CSV.');
		// Who asks for it from the page reads why it does not come, and gets it where it does.
		await page.goto(app.base + '/setup/partners');
		const button = (name: string) =>
			page.getByRole('link', { name, exact: true }).or(page.getByRole('button', { name, exact: true }));
		await button('PDF').press('Enter');
		await page.getByRole('alert').getByText('which is what goes on paper.').waitFor();
		await page.goto(app.base + '/setup/partners?find=Sken');
		for (const [name, ending] of [
			['PDF', 'pdf'],
			['XLSX', 'xlsx']
		]) {
			const [file] = await Promise.all([page.waitForEvent('download'), button(name).press('Enter')]);
			expect(file.suggestedFilename()).toMatch(new RegExp(`^partners-.*\\.${ending}$`));
		}
		expect(await page.getByRole('alert').count()).toBe(0);
		// One that does not come is stopped, and the page is as it was.
		const held = await app.sql.reserve();
		try {
			await held`BEGIN`;
			await held`SET LOCAL ROLE NONE`;
			await held`LOCK TABLE partner IN ACCESS EXCLUSIVE MODE`;
			await button('XLSX').press('Enter');
			await page.getByRole('button', { name: 'Stop' }).press('Enter');
			await page.getByRole('alert').getByText('It was stopped.').waitFor();
			expect(await page.getByRole('button', { name: /^Stop/ }).count()).toBe(0);
		} finally {
			await held`ROLLBACK`;
			held.release();
		}
		await page.context().clearCookies();
		await button('PDF').press('Enter');
		await page.getByRole('alert').getByText('Your session has ended. Sign in again').waitFor();
	});
	it('of a long list ten thousand are counted, and all of them when it is asked', async () => {
		await app.sql`INSERT INTO partner (code, name, kind) SELECT 'LONG-' || n, 'Long list', 'supplier' FROM generate_series(1, 10100) n`;
		const [{ n }] = await app.sql<{ n: string }[]>`SELECT to_char(count(*), 'FM99,999') AS n FROM partner`;
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/partners?sort=name');
		const says = page.getByRole('status').filter({ hasText: ' of ' });
		expect(await says.textContent()).toBe('1 to 50 of more than 10,000');
		await page.getByRole('button', { name: 'Count them all' }).click();
		await page.getByText(`1 to 50 of ${n}`).waitFor();
		expect(await page.getByRole('button', { name: 'Count them all' }).count()).toBe(0);
		await page.getByRole('link', { name: 'Next' }).click();
		await page.getByText(`51 to 100 of ${n}`).waitFor();
		await page.goto(app.base + '/setup/partners?kind=customer');
		expect(await page.getByRole('button', { name: 'Count them all' }).count()).toBe(0);
	});
	it('a list is not exported to whoever may not see it, nor one that there is not', async () => {
		const page = await app.signIn('tobi');
		expect((await page.request.get(app.base + '/lists/people/csv')).status()).toBe(403);
		expect((await page.request.get(app.base + '/lists/people/pdf')).status()).toBe(403);
		expect((await page.request.get(app.base + '/lists/people/count')).status()).toBe(403);
		expect((await page.request.get(app.base + '/lists/nothing/count')).status()).toBe(404);
		expect((await page.request.get(app.base + '/lists/nothing/csv')).status()).toBe(404);
		expect((await page.request.get(app.base + '/lists/partners/doc')).status()).toBe(404);
	});
	it('what is done of a line is the same added up at once as movement by movement', async () => {
		const differ = await app.sql`
			SELECT * FROM (SELECT order_line_id, sum(qty) AS qty, max(event_id) AS event_id FROM line_done GROUP BY 1) d FULL JOIN line_sum s USING (order_line_id)
			WHERE d.qty IS DISTINCT FROM s.qty OR d.event_id IS DISTINCT FROM s.event_id`;
		expect(differ).toEqual([]);
		const [{ kinds }] = await app.sql<{ kinds: number }[]>`
			SELECT count(DISTINCT o.kind)::int AS kinds FROM line_sum s JOIN order_line l ON l.id = s.order_line_id JOIN orders o ON o.id = l.order_id`;
		expect(kinds).toBeGreaterThan(6);
	});
});
