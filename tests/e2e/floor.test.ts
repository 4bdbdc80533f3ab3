import type { Page } from 'playwright';
import { describe, expect, it } from 'vitest';
import { createItem } from '../../src/lib/server/setup/items.ts';
import { startApp } from './app.ts';
import { accessible, scan } from './sheet.ts';

const app = startApp();
const said = (page: Page, text: string | RegExp) => page.locator('section.said').getByText(text).first().waitFor();

describe('work in process', () => {
	it('a unit is moved on by scanning its card; another act is chosen first and done once; the floor shows it live', async () => {
		const [page, floor] = [await app.signIn('rhea', { width: 400, height: 800 }), await app.signIn('ines')];
		await floor.goto(`${app.base}/production/floor`);
		const cell = (operation: string, column: number) =>
			floor
				.getByRole('row', { name: new RegExp(`^${operation} `) })
				.locator('td')
				.nth(column);
		await expect.poll(() => cell('Kitting', 1).innerText()).toBe('1');
		await accessible(floor);
		await page.goto(`${app.base}/station/L1/floor`);
		await accessible(page);
		// Look only changes nothing, and stays.
		await page.getByRole('button', { name: 'Look only' }).press('Enter');
		for (const _ of [0, 1]) {
			await scan(page, 'WM-0221');
			await said(page, /WM-0221 is queued at Kitting since/);
		}
		await page.getByRole('button', { name: 'Look only' }).press('Enter');
		await scan(page, 'WM-0221');
		await said(page, 'WM-0221 is now in process at Kitting.');
		await expect.poll(() => cell('Kitting', 2).innerText()).toBe('1');
		// The same again at once does nothing.
		await scan(page, 'WM-0221');
		await said(page, 'WM-0221 was read a moment ago; it is in process at Kitting.');
		// An act that is chosen is done once.
		await page.getByRole('button', { name: 'Hold', exact: true }).press('Enter');
		await page.getByLabel('Why').fill('A part is missing');
		await scan(page, 'WM-0221');
		await said(page, 'WM-0221 is now on hold at Kitting.');
		await expect.poll(() => cell('Kitting', 3).innerText()).toBe('1');
		await scan(page, 'WM-0221');
		await said(page, 'WM-0221 is on hold at Kitting and does not move. Release the hold first.');
		await accessible(page);
		// A label that cannot be read is typed; what is none says so.
		await page.getByLabel('A label that cannot be read').fill('WM-9999');
		await page.keyboard.press('Enter');
		await said(page, 'WM-9999 is no unit that goes over the floor.');
		const [{ reason, evidence, source }] = await app.sql<{ reason: string; evidence: string; source: string }[]>`
			SELECT s.reason, s.evidence, s.source FROM step s JOIN mark k ON k.id = s.mark_id WHERE k.number = 'WM-0221' AND s.act = 'hold'`;
		expect([reason, evidence, source]).toEqual(['A part is missing', 'scanned', 'station']);
		await floor.getByRole('link', { name: 'serial WM-0221' }).click();
		await floor.getByRole('heading', { name: 'Its way over the floor' }).waitFor();
		await floor.getByText('On the floor: on hold at Kitting').waitFor();
		await accessible(floor);
	});
	it('what is scanned while the network is gone waits there and goes in once, with the time of its scan', async () => {
		const page = await app.signIn('rhea');
		await page.goto(`${app.base}/station/BENCH/floor`);
		await page.context().setOffline(true);
		await scan(page, 'WM-0209');
		await page.getByText('1 scan waits.').waitFor();
		await page.context().setOffline(false);
		await said(page, 'WM-0209 is now in process at Calibration.');
		const steps =
			await app.sql`SELECT 1 FROM step s JOIN mark k ON k.id = s.mark_id WHERE k.number = 'WM-0209' AND s.at > now() - interval '1 minute'`;
		expect(steps).toHaveLength(1);
	});
	it('the yield of fourteen days, and a route set by hand', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/production/yield`);
		await page.getByRole('img', { name: /Calibration: \d+ of \d+ passed first time/ }).waitFor();
		const row = await page.getByRole('row', { name: /^Kitting / }).innerText();
		// Soon after midnight the youngest units began the day before, and the oldest are out of the fourteen days.
		const [, entered, passed] = /^Kitting\t(\d+)\t(\d+)\t0\t0\t/.exec(row)!.map(Number);
		expect(entered).toBeGreaterThanOrEqual(25);
		expect(entered - passed).toBeLessThanOrEqual(1);
		expect(row).toContain(`\t${Number(((passed / entered) * 100).toFixed(1))} %`);
		await accessible(page);
		await page.goto(`${app.base}/production/yield?item=WM&from=yesterdayish`);
		await page.getByText('yesterdayish').waitFor();
		await createItem(app.sql, 'ines', { code: 'ROUTED', name: 'Routed', unit: 'each', tracking: 'serial' });
		await page.goto(`${app.base}/setup/items/ROUTED`);
		await page.getByRole('link', { name: 'Route on the floor' }).click();
		for (const [i, [code, name]] of [
			['CUT', 'Cutting'],
			['WELD', 'Welding']
		].entries()) {
			if (i) await page.getByRole('button', { name: 'Add an operation' }).press('Enter');
			await page.getByLabel(`Code of operation ${i + 1}`).fill(code);
			await page.getByLabel(`Name of operation ${i + 1}`).fill(name);
		}
		await accessible(page);
		await page.getByRole('button', { name: 'Save the route' }).press('Enter');
		await page.getByText('Saved. It counts for units that are released from now on.').waitFor();
	});
	it('is open to programs by the same rules', async () => {
		const headers = { authorization: `Bearer ${await app.token('coordinator')}`, 'content-type': 'application/json' };
		const ask = async (method: string, path: string, body?: object) => {
			const answer = await fetch(`${app.base}${path}`, { method, headers, body: body && JSON.stringify(body) });
			return { status: answer.status, body: (await answer.json()) as Record<string, unknown> };
		};
		await createItem(app.sql, 'ines', { code: 'API-UNIT', name: 'By program', unit: 'each', tracking: 'serial' });
		const operations = ['A', 'B', 'C'].map((code) => ({ code, name: `Step ${code}` }));
		expect((await ask('PUT', '/api/v1/routes/API-UNIT', { operations })).status).toBe(201);
		expect((await ask('PUT', '/api/v1/routes/API-UNIT', { operations })).status).toBe(200);
		expect((await ask('PUT', '/api/v1/routes/NONE', { operations })).status).toBe(404);
		expect((await ask('PUT', '/api/v1/routes/API-UNIT', { operations: [] })).status).toBe(422);
		let n = 0;
		const step = (serial: string, act: string, more: object = {}) =>
			ask('POST', '/api/v1/steps', {
				...{ key: `api-${++n}`, at: `2026-03-01T08:${String(n).padStart(2, '0')}:00Z`, item: 'API-UNIT', serial, act },
				...more
			});
		expect(await step('U-1', 'release')).toEqual({ status: 201, body: { operation: 'A', state: 'queued' } });
		expect(await step('U-1', 'read')).toEqual({ status: 201, body: { operation: 'A', state: 'in process' } });
		expect(await step('U-1', 'read', { at: '2026-03-01T08:02:05Z' })).toEqual({
			status: 200,
			body: { operation: 'A', state: 'in process', again: true }
		});
		expect(await step('U-1', 'read')).toEqual({ status: 201, body: { operation: 'B', state: 'queued' } });
		expect(await step('U-1', 'rework', { operation: 'A', reason: 'scratched' })).toEqual({
			status: 201,
			body: { operation: 'A', state: 'rework' }
		});
		const refused = await step('U-1', 'read');
		expect([refused.status, refused.body.detail]).toEqual([422, expect.stringContaining('U-1 is in rework at Step A')]);
		expect((await step('U-1', 'fly')).status).toBe(422);
		const way = await ask('GET', '/api/v1/steps?item=API-UNIT&serial=U-1');
		expect(way.body).toMatchObject({
			operation: 'A',
			state: 'rework',
			steps: [{ act: 'release' }, {}, {}, { act: 'rework', reason: 'scratched' }]
		});
		expect((await ask('GET', '/api/v1/steps?item=API-UNIT&serial=NONE')).status).toBe(404);
		const report = await ask('GET', '/api/v1/yield?item=API-UNIT&from=2026-03-01&to=2026-03-01');
		expect(report.body).toMatchObject({
			operations: [
				{ operation: 'A', started: 1, passedFirst: 1, reworked: 0, scrapped: 0, firstPassYield: '1' },
				{ operation: 'B', started: 0, passedFirst: 0, reworked: 1, scrapped: 0, firstPassYield: null },
				{ operation: 'C', started: 0 }
			],
			rolledThroughputYield: null
		});
		expect((await ask('GET', '/api/v1/yield?item=API-UNIT&from=x&to=2026-03-01')).status).toBe(422);
	});
	it('a tag is written with its unit’s release, read, written and confirmed; taken away too soon, its unit has not moved', async () => {
		const [station, devices] = [await app.signIn('rhea'), await app.signIn('rhea')];
		await station.goto(`${app.base}/station/CAL/floor`);
		await devices.goto(`${app.base}/devices/tags`);
		const row = (name: string) => devices.locator('tr', { hasText: name }).first();
		const put = async (name: string) => {
			await devices.getByLabel(`Reader for ${name}`).selectOption('CAL');
			await row(name)
				.getByRole('button', { name: /Put it there/ })
				.click();
			await row(name).getByText('before the reader of CAL').waitFor();
		};
		const takeAway = async (name: string) => {
			await row(name)
				.getByRole('button', { name: /Take away/ })
				.click();
			await row(name).getByText('out of range').waitFor();
		};
		const where = async () => {
			const [f] = await app.sql<{ at: string; tag: string }[]>`
				SELECT f.operation || ' ' || f.state AS at, t.memory AS tag FROM floor f JOIN mark k ON k.id = f.mark_id JOIN tag t ON t.name = 'TAG-22' WHERE k.serial_no = 'WM-0204'`;
			return f;
		};
		await put('TAG-22');
		await said(station, 'Tag TAG-22 is blank.');
		await station.getByRole('button', { name: 'Release', exact: true }).press('Enter');
		await scan(station, 'WM-0204');
		await said(station, 'WM-0204 is now queued at Kitting.');
		await station.getByText('written, and the write held').waitFor();
		await accessible(station);
		await accessible(devices);
		await takeAway('TAG-22');
		await put('TAG-22');
		await said(station, 'WM-0204 is now in process at Kitting.');
		const moved = await where();
		expect(moved.tag).toContain('in%20process');
		// It leaves before the write is confirmed: nothing moved, and the station says so.
		await takeAway('TAG-22');
		await station.getByRole('button', { name: 'Hold', exact: true }).press('Enter');
		await app.sql`UPDATE tag SET leaves = true, station_id = (SELECT id FROM station WHERE code = 'CAL') WHERE name = 'TAG-22'`;
		await app.sql`SELECT pg_notify('tags', (SELECT id::text FROM station WHERE code = 'CAL'))`;
		await said(station, 'WM-0204 was taken away before its tag was written: it has not moved.');
		expect(await where()).toEqual(moved);
		// Two at once: neither is read.
		await put('TAG-21');
		await said(station, 'Tag TAG-21 is blank.');
		await put('TAG-22');
		await said(station, '2 tags lie before the reader of Calibration');
		expect(await where()).toEqual(moved);
	});
});
