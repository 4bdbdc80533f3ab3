import type { Page } from 'playwright';
import { describe, expect, it } from 'vitest';
import { verifyConsistency } from '../proofs.ts';
import { startApp } from './app.ts';
import { accessible, toScanLine } from './sheet.ts';

const app = startApp();
const markOf = async (number: string) =>
	(await app.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number} ORDER BY id LIMIT 1`)[0].id;
const touched = (page: Page) => page.getByRole('region', { name: 'What it touches' });

describe('a correction', () => {
	it('of a date takes 4 actions from the page of the number, with what it touches said before', async () => {
		const page = await app.signIn('ines');
		const mark = await markOf('QR-26-0417');
		await page.goto(`${app.base}/register/${mark}`);
		let actions = 0;
		const act = async (work: Promise<unknown>) => {
			actions++;
			await work;
		};
		await act(page.getByRole('link', { name: 'Correct the expiry' }).click());
		await touched(page).getByText('380 g at QS/A1').waitFor();
		await touched(page).getByText('Nothing else took its date from it.').waitFor();
		expect(await page.getByLabel('As it should be').evaluate((e) => e === document.activeElement)).toBe(true);
		await act(page.keyboard.type('30 Jan 2027'));
		await page.keyboard.press('Tab');
		await touched(page).getByText('were made from it and would outlive it').first().waitFor();
		await act(page.getByLabel('Why, in one line').fill('Read from the wrong label'));
		await act(page.keyboard.press('Enter'));
		console.log(`a correction from the page of a number: ${actions} actions`);
		expect(actions).toBeLessThanOrEqual(4);
		await page.getByText('Corrected. The old value stands in its history.').waitFor();
		await page.getByText('30 Jan 2027').first().waitFor();
		const row = page.getByRole('row').filter({ hasText: 'Read from the wrong label' });
		expect(await row.innerText()).toMatch(/corrected[\s\S]+expires: .+ → 30 Jan 2027/);
	});
	it('of a number keeps the old one findable; the whole of it can be done by keyboard, and taken back', async () => {
		const page = await app.signIn('ines');
		const mark = await markOf('QK-SHORT-1');
		await page.goto(`${app.base}/register/${mark}/correct`);
		await accessible(page);
		await page.getByLabel('As it should be').fill('QK-SHORT-2');
		await touched(page).getByText('QK-SHORT-1 stays findable, and says what it is called now.').waitFor();
		await page.keyboard.press('Tab');
		await page.keyboard.type('The 1 is a 2');
		await page.keyboard.press('Tab');
		await page.keyboard.press('Enter');
		await page.waitForURL(`**/register/${mark}?said=corrected`);
		await toScanLine(page);
		await page.keyboard.type('QK-SHORT-1');
		await page.keyboard.press('Enter');
		await page.waitForURL(`**/register/${mark}`);
		await page.getByText('Formerly').waitFor();
		const row = page.getByRole('row').filter({ hasText: 'The 1 is a 2' });
		await row.getByRole('button', { name: 'Undo' }).focus();
		await page.keyboard.press('Enter');
		await page.getByRole('dialog').getByLabel('Why').fill('It was a 1');
		await page.keyboard.press('Enter');
		await page.getByText('Undone: what it booked or changed is taken back.').waitFor();
		expect((await app.sql`SELECT number FROM mark WHERE id = ${mark}`)[0].number).toBe('QK-SHORT-1');
	});
	it('says what is wrong while it is typed, and keeps what was typed when it is refused', async () => {
		const page = await app.signIn('ines');
		const mark = await markOf('WM-0201');
		await page.goto(`${app.base}/register/${mark}/correct?field=number`);
		await page.getByLabel('As it should be').fill('WM-0202');
		await page.getByText('Two pieces cannot be made one').waitFor();
		await page.getByLabel('Why, in one line').fill('misread');
		await page.getByRole('button', { name: 'Correct', exact: true }).click();
		await page.getByRole('alert').getByText('Two pieces cannot be made one').waitFor();
		expect(await page.getByLabel('As it should be').inputValue()).toBe('WM-0202');
		expect(await page.getByLabel('Why, in one line').inputValue()).toBe('misread');
	});
	it('is nobody’s who may not', async () => {
		const page = await app.signIn('tobi');
		const mark = await markOf('WM-0201');
		await page.goto(`${app.base}/register/${mark}`);
		expect(await page.getByRole('link', { name: /^Correct/ }).count()).toBe(0);
		await page.goto(`${app.base}/register/${mark}/correct`);
		await page.getByText('Only a coordinator or quality can correct numbers.').waitFor();
		const token = await app.token('receiving and shipping');
		const sent = (body: object, by = token) =>
			fetch(`${app.base}/api/v1/corrections`, {
				method: 'POST',
				headers: { authorization: `Bearer ${by}`, 'content-type': 'application/json' },
				body: JSON.stringify(body)
			});
		const fix = {
			...{ key: 'api-1', at: '2026-11-20T08:00:00Z', item: 'DPD', lot: 'QR-26-0417' },
			...{ field: 'supplierLot', value: '88-1303', reason: 'misread' }
		};
		expect((await sent(fix)).status).toBe(403);
		const quality = await app.token('quality');
		const first = await sent(fix, quality);
		expect(first.status).toBe(201);
		const { id } = await first.json();
		const again = await sent(fix, quality);
		expect([again.status, await again.json()]).toEqual([200, { id }]);
		expect((await sent({ ...fix, value: '88-1304' }, quality)).status).toBe(409);
		expect((await sent({ ...fix, key: 'api-2', lot: 'QR-NONE' }, quality)).status).toBe(404);
		const refused = await sent({ ...fix, key: 'api-3' }, quality);
		expect([refused.status, (await refused.json()).detail]).toEqual([
			422,
			'Supplier’s lot of QR-26-0417 is 88-1303 already. Nothing is corrected.'
		]);
	});
});

describe('a paper', () => {
	it('stays as it was printed; what was corrected since makes another one', async () => {
		const page = await app.signIn('ines');
		const [shipped] = await app.sql<{ event: string; code: string; mark: string; number: string }[]>`
			SELECT e.id AS event, o.code, k.id AS mark, k.number FROM event e JOIN orders o ON o.id = e.order_id JOIN movement m ON m.event_id = e.id
			JOIN mark k ON k.id = m.mark_id AND k.number LIKE 'PH-%' WHERE e.kind = 'shipment' ORDER BY e.id LIMIT 1`;
		const print = async () =>
			(await page.request.get(`${app.base}/orders/${shipped.code}/packing-list?event=${shipped.event}`)).body();
		const first = await print();
		expect(first.subarray(0, 5).toString()).toBe('%PDF-');
		expect((await print()).equals(first)).toBe(true);
		await page.goto(`${app.base}/register/${shipped.mark}/correct?field=number`);
		const paper = touched(page).getByRole('link', { name: `Packing list of ${shipped.code}, printed` });
		await paper.waitFor();
		await touched(page).getByText(shipped.code, { exact: true }).first().waitFor();
		const href = (await paper.getAttribute('href'))!;
		await page.getByLabel('As it should be').fill(`${shipped.number}X`);
		await page.getByLabel('Why, in one line').fill('misprinted');
		await page.keyboard.press('Enter');
		await page.waitForURL('**?said=corrected');
		const second = await print();
		expect(second.equals(first)).toBe(false);
		expect((await (await page.request.get(app.base + href)).body()).equals(first)).toBe(true);
		await page.goto(`${app.base}/outbound/${shipped.code}`);
		await page.getByRole('link', { name: /^As printed/ }).waitFor();
		expect((await page.request.get(`${app.base}/papers/999999`)).status()).toBe(404);
	});
	it('of a trace carries the head of the ledger', async () => {
		const page = await app.signIn('auditor');
		const mark = await markOf('QR-26-0417');
		await page.goto(`${app.base}/trace?mark=${mark}&direction=forward`);
		await page.getByText(/^\d+ of \d+ links scanned/).waitFor();
		for (const direction of ['forward', 'back']) {
			const report = await page.request.get(`${app.base}/trace/report?mark=${mark}&direction=${direction}`);
			expect(report.headers()['content-type']).toBe('application/pdf');
			expect((await report.body()).length).toBeGreaterThan(10_000);
		}
		expect((await page.request.get(`${app.base}/trace/report?mark=999999`)).status()).toBe(404);
	});
});

describe('the witness', () => {
	it('is sent the head each day and on demand, with the proof that it only grew', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/devices/mail`);
		await page
			.getByRole('link', { name: /^Head of the ledger/ })
			.first()
			.waitFor();
		await page.goto(`${app.base}/setup/ledger`);
		await page.getByLabel('Mail address of the witness').fill('no address');
		await page.getByRole('button', { name: 'Save' }).click();
		await page.getByText('This is no mail address. Type it as name@example.org.').waitFor();
		await page.getByRole('button', { name: 'Send the head now' }).click();
		await page.getByText('On its way to ledger@thornmere-utilities.example.').waitFor();
		await expect.poll(async () => (await app.sql`SELECT 1 FROM mailbox_message`).length).toBe(2);
		await page.goto(`${app.base}/devices/mail`);
		await page
			.getByRole('link', { name: /^Head of the ledger/ })
			.first()
			.click();
		await page.getByRole('link', { name: 'consistency.json' }).waitFor();
		await accessible(page);
		const attached = async (name: string) => {
			const [download] = await Promise.all([
				page.waitForEvent('download'),
				page.getByRole('link', { name, exact: true }).click()
			]);
			const chunks: Buffer[] = [];
			for await (const c of await download.createReadStream()) chunks.push(c as Buffer);
			return Buffer.concat(chunks);
		};
		const head = JSON.parse((await attached('head.json')).toString());
		const proof = JSON.parse((await attached('consistency.json')).toString());
		const bytes = (hex: string) => Buffer.from(hex, 'hex');
		expect(proof.to).toBe(head.size);
		expect(
			verifyConsistency(proof.from, proof.to, proof.path.map(bytes), bytes(proof.fromRoot), bytes(proof.toRoot))
		).toBe(true);
		expect((await attached('head.png')).subarray(1, 4).toString()).toBe('PNG');
	});
	it('gets its mail once the server takes it again; who may not see it is told so', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/devices/mail`);
		await page.getByRole('button', { name: 'Let it refuse' }).click();
		await page.getByText('refuses everything').waitFor();
		await page.goto(`${app.base}/setup/ledger`);
		await page.getByRole('button', { name: 'Send the head now' }).click();
		await page.getByText('On its way to').waitFor();
		const waiting = () => app.sql`SELECT fault FROM mail WHERE sent_at IS NULL AND fault IS NOT NULL`;
		await expect.poll(async () => (await waiting()).length).toBe(1);
		await page.goto(`${app.base}/devices/mail/sent`);
		await page.getByText('The mailbox is closed. Try later.').waitFor();
		await accessible(page);
		await page.goto(`${app.base}/devices/mail`);
		await page.getByRole('button', { name: 'Let it take mail' }).click();
		await page.getByText('takes mail at once').waitFor();
		await page.goto(`${app.base}/devices/mail/sent`);
		await page.getByRole('button', { name: /^Send now/ }).click();
		await page.getByText('It is tried at once.').waitFor();
		await expect.poll(async () => (await waiting()).length).toBe(0);
		const tobi = await app.signIn('tobi');
		await tobi.goto(`${app.base}/devices/mail`);
		await tobi.getByText(/^Only a coordinator, quality, an auditor or an administrator can see the ledger/).waitFor();
	});
});
