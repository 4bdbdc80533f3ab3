import { describe, expect, it } from 'vitest';
import { findingsOf } from '../db/cluster.ts';
import { startApp } from './app.ts';
import { accessible, foot, openOrder, scan } from './sheet.ts';

const app = startApp();
const where = async (number: string, place: string) => {
	const [b] = await app.sql<{ qty: string }[]>`
		SELECT trim_scale(b.qty)::text AS qty FROM mark k JOIN balance b ON b.mark_id = k.id AND NOT b.virtual JOIN place p ON p.id = b.place_id AND p.code = ${place} WHERE k.number = ${number}`;
	return b?.qty ?? '0';
};

describe('picked goods that wait', () => {
	it('are picked at the depot by phone, wait, and go with one press', async () => {
		const { page, code } = await openOrder(app, {
			...{ kind: 'sale', partner: 'CARRAWAY', place: 'ND', lines: [['PH7-50', '4']] }
		});
		const [{ number }] = await app.sql<{ number: string }[]>`
			SELECT k.number FROM mark k JOIN item i ON i.id = k.item_id AND i.code = 'PH7-50' JOIN balance b ON b.mark_id = k.id AND b.qty > 4 JOIN place p ON p.id = b.place_id AND p.code = 'ND/DOCK' LIMIT 1`;
		await page.setViewportSize({ width: 400, height: 800 });
		await page.getByRole('link', { name: 'Pick list' }).click();
		await page.getByRole('heading', { name: `Pick ${code}` }).waitFor();
		await page.locator('[data-live]').waitFor();
		await scan(page, number);
		await page.getByRole('status').getByText(`Lot ${number} from ND/DOCK`).waitFor();
		await accessible(page);
		const before = await where(number, 'ND/OUT');
		await foot(page).getByRole('button', { name: 'To ND/OUT' }).click();
		await page.getByText(/Booked on \S+: \d/).waitFor();
		expect(Number(await where(number, 'ND/OUT'))).toBe(Number(before) + 4);

		await page.setViewportSize({ width: 1280, height: 800 });
		await page.getByRole('link', { name: 'Order', exact: true }).click();
		await page.getByText('1 number waits at ND/OUT.').waitFor();
		await foot(page).getByText('Nothing is missing').waitFor();
		await accessible(page);
		await page.keyboard.press('Control+Enter');
		await page.getByText(/shipped \d/).waitFor();
		expect(await where(number, 'ND/OUT')).toBe(before);
	});

	it('are put back to the bin they came from, which is said', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/outbound/SO-3346');
		await page.getByRole('button', { name: 'Put back what was picked' }).press('Enter');
		await page.getByText(/^Put back to ND\/DOCK: /).waitFor();
		await page.getByRole('tab', { name: 'Picking' }).click();
		await foot(page).getByRole('button', { name: 'To ND/OUT' }).waitFor();
	});

	it('a bin is made to wait at in Setup; a dock is not', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/places');
		const flip = async (place: string) => {
			await page.getByRole('switch', { name: `Picked goods wait at ${place}` }).focus();
			await page.keyboard.press('Space');
		};
		await flip('ND/B8');
		await page.getByText('ND/B8 is where picked goods wait: its site picks before it ships.').waitFor();
		await flip('ND/B8');
		await page.getByText('ND/B8 is no place where picked goods wait any more.').waitFor();
		await flip('QS/DOCK');
		await page.getByText('Goods arrive at QS/DOCK. Picked goods wait at another bin.').waitFor();
	});

	it('and the ledger holds', async () => {
		expect(await findingsOf(app.sql)).toEqual([]);
	});
});
