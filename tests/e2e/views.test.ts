import type { Page } from 'playwright';
import { beforeAll, describe, expect, it } from 'vitest';
import { eventPath } from '../../src/lib/core/ledger/events.ts';
import { startApp } from './app.ts';
import { axeOn } from './sheet.ts';

const app = startApp();
/** Every view there is, as the person who may see it. */
const views: Record<'ines' | 'admin', string[]> = {
	ines: [
		'/',
		...['/inbound', '/inbound/new', '/inbound/PO-2214', '/inbound/PO-2215'],
		...['/production', '/production/new', '/production/MO-731', '/production/MO-733'],
		...[
			'/outbound',
			'/outbound/new',
			'/outbound/SO-3344',
			'/outbound/SO-3344/pick',
			'/outbound/SO-3346',
			'/outbound/SO-3346/pick'
		],
		...['/stock', '/stock/totals', '/stock/move', '/stock/issues', '/stock/issues/new', '/stock/issues/JI-21'],
		...['/stock/transfers', '/stock/transfers/new', '/stock/transfers/TR-5', '/stock/transfers/TR-6'],
		...['/stock/adjusted', '/stock/adjust-out', '/stock/adjust-out/new', '/stock/adjust-out/AO-4'],
		...['/inbound/returns', '/inbound/returns/new', '/inbound/returns/RT-130', '/inbound/returns/RT-116'],
		...['/stock/counts', '/stock/counts/new', '/stock/counts/CT-0003', '/stock/counts/CT-0001'],
		...['/outbound/returns', '/outbound/returns/new', '/outbound/returns/SR-11'],
		...['/outbound/counter', '/outbound/counter/new', '/outbound/counter/CS-1', '/outbound/counter/CS-4'],
		...['/outbound/invoices', '/outbound/SO-3350', '/setup/terms'],
		...['/stock/numbering', '/stock/numbering/new', '/stock/numbering/NB-0004'],
		...['/stock/adjust-in', '/stock/adjust-in/new', '/stock/adjust-in/AI-1'],
		...['/stock/repacking', '/stock/repacking/new', '/stock/repacking/RP-12', '/stock/repacking/RP-13'],
		...[
			'/register',
			'/events',
			'/events/moved',
			'/api',
			'/trace',
			'/trace/contents',
			'/trace/parts?item=FK',
			'/devices',
			'/devices/tags',
			'/devices/mail',
			'/devices/mail/sent'
		],
		...['/setup/items', '/setup/items/CR-30', '/setup/items/WM', '/setup/kinds', '/setup/kinds/new', '/setup/facts'],
		...['/setup/checks', '/setup/patterns', '/setup/patterns/new', '/setup/drawn'],
		...[
			'/setup/places',
			'/setup/partners',
			'/setup/partners/THORNMERE',
			'/setup/jobs',
			'/setup/stations',
			'/setup/ways',
			'/setup/reasons',
			'/setup/orders'
		],
		...['/production/review', '/production/MO-737/cards', '/production/MO-737/pairs'],
		...[
			'/station',
			'/station/L1',
			'/station/L1/floor',
			'/production/shortage',
			'/production/floor',
			'/production/yield',
			'/setup/items/WM/route'
		]
	],
	admin: ['/setup/people', '/setup/tokens', '/you', '/setup/ledger']
};
beforeAll(async () => {
	const marks = await app.sql<{ id: string }[]>`
		SELECT id FROM mark WHERE number IN ('QR-26-0417', 'WM-0201') OR status = 'held' ORDER BY id LIMIT 3`;
	for (const { id } of marks) views.ines.push(`/register/${id}`, `/register/${id}/correct?field=expiresOn`);
	const [unit] = await app.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'WM-0201'`;
	views.ines.push(`/register/${unit.id}/parts`);
	const [{ id }] = await app.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'QR-26-0417'`;
	const [event] = await app.sql<{ id: string }[]>`SELECT max(id) AS id FROM event WHERE kind = 'correction'`;
	views.ines.push(eventPath(event.id));
	views.ines.push(`/trace?mark=${id}&direction=forward`, `/trace?mark=${id}&direction=back`);
});

const sizes = [
	{ width: 1280, height: 800 },
	{ width: 700, height: 800 },
	{ width: 400, height: 800 }
];
/** In the dark the page is the same but for its colours. */
const COLOURS = ['color-contrast', 'link-in-text-block'];
/** The floor's screens are used on a phone; elsewhere a narrow page must fit, which is looked at for every one. */
const FLOOR = /^\/(station|stock\/move|stock\/counts|stock\/transfers|production\/floor)|\/pick$/;
async function faults(page: Page, path: string, said: string, rules?: string[]) {
	const axe = axeOn(page);
	const { violations } = await (rules ? axe.withRules(rules) : axe).analyze();
	return violations.flatMap((v) =>
		v.nodes
			.slice(0, 3)
			.map((n) => `${path} ${said}: ${v.id} ${n.html.slice(0, 140)} ${n.failureSummary?.split('\n')[1]}`)
	);
}

/** What each address of a page weighs that is opened by a browser that has seen nothing yet. */
async function scales(page: Page) {
	const client = await page.context().newCDPSession(page);
	await client.send('Network.enable');
	await client.send('Network.setCacheDisabled', { cacheDisabled: true });
	const kinds = new Map<string, string>();
	let weight: Record<string, number> = {};
	let requests = 0;
	client.on('Network.responseReceived', (e) => kinds.set(e.requestId, e.type));
	client.on('Network.loadingFinished', (e) => {
		const kind = kinds.get(e.requestId) ?? 'Other';
		weight[kind] = (weight[kind] ?? 0) + e.encodedDataLength;
		if (kind !== 'Font') requests++;
	});
	const kB = (kind: string) => Math.round((weight[kind] ?? 0) / 1000);
	return {
		empty: () => void ([weight, requests] = [{}, 0]),
		read: (path: string) => {
			expect.soft(kB('Script'), path).toBeLessThanOrEqual(250);
			expect.soft(kB('Stylesheet'), path).toBeLessThanOrEqual(75);
			expect.soft(requests, path).toBeLessThanOrEqual(15);
			return `${path}: script ${kB('Script')} kB, style ${kB('Stylesheet')} kB, page ${kB('Document')} kB, ${requests} requests`;
		}
	};
}

describe('every view', () => {
	it.each(['ines', 'admin'] as const)(
		'of %s is sound for all, light and dark, wide and narrow, and weighs what it may',
		async (who) => {
			const found: string[] = [];
			const wide: string[] = [];
			const weights: string[] = [];
			const rest = [...views[who]];
			const look = async () => {
				const page = await app.signIn(who);
				const scale = await scales(page);
				for (let path = rest.shift(); path; path = rest.shift()) {
					await page.setViewportSize(sizes[0]);
					scale.empty();
					await page.goto(app.base + path);
					await page.waitForTimeout(150);
					weights.push(scale.read(path));
					for (const size of sizes) {
						await page.setViewportSize(size);
						await page.emulateMedia({ colorScheme: 'light', reducedMotion: 'reduce' });
						if (size === sizes[0]) found.push(...(await faults(page, path, `${size.width}`)));
						if (size === sizes[2] && FLOOR.test(path)) found.push(...(await faults(page, path, `${size.width}`)));
						if (size === sizes[0]) {
							await page.emulateMedia({ colorScheme: 'dark' });
							found.push(...(await faults(page, path, 'dark', COLOURS)));
						}
						// A chart takes its new width a moment after the window.
						await page
							.waitForFunction(() => document.documentElement.scrollWidth <= innerWidth, null, { timeout: 2_000 })
							.catch(() => {});
						const over = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
						if (over > 0) wide.push(`${path} at ${size.width}: ${over} px too wide`);
					}
				}
			};
			await Promise.all([look(), look()]);
			console.log(weights.join('\n'));
			expect(found).toEqual([]);
			expect(wide).toEqual([]);
		},
		1_800_000
	);
	it('is there soon after a click', async () => {
		const page = await app.signIn('ines');
		const took: number[] = [];
		const areas = ['Inbound', 'Production', 'Outbound', 'Stock', 'Register', 'Trace', 'Setup', 'Today'];
		for (let round = 0; round < 3; round++)
			for (const area of areas) {
				const link = page.getByRole('navigation', { name: 'Areas' }).getByRole('link', { name: area });
				await link.hover();
				took.push(
					await link.evaluate(
						(el: HTMLAnchorElement) =>
							new Promise<number>((done) => {
								const start = performance.now();
								const before = document.title;
								el.click();
								const look = () =>
									document.title === before
										? requestAnimationFrame(look)
										: requestAnimationFrame(() => setTimeout(() => done(performance.now() - start)));
								look();
							})
					)
				);
			}
		took.sort((a, b) => a - b);
		const at = (part: number) => Math.round(took[Math.floor(took.length * part)]);
		console.log(
			`a click on an area, painted after: median ${at(0.5)} ms, slowest ${Math.round(took[took.length - 1])} ms of ${took.length}`
		);
		expect(took.every((t) => t > 0)).toBe(true);
	});
	it('comes compressed where the browser takes that, and plain where not', async () => {
		const page = await app.signIn('ines');
		const cookie = (await page.context().cookies()).map((c) => `${c.name}=${c.value}`).join('; ');
		const ask = async (encoding: string) => {
			const { get } = await import('node:http');
			return new Promise<{ encoding: unknown; vary: unknown; bytes: number }>((done, fail) =>
				get(app.base + '/register', { headers: { cookie, 'accept-encoding': encoding } }, (r) => {
					let bytes = 0;
					r.on('data', (d: Buffer) => (bytes += d.length));
					r.on('end', () => done({ encoding: r.headers['content-encoding'], vary: r.headers.vary, bytes }));
				}).on('error', fail)
			);
		};
		const [packed, plain] = [await ask('gzip, br'), await ask('identity')];
		expect(packed).toMatchObject({ encoding: 'gzip', vary: 'accept-encoding' });
		expect(plain.encoding).toBeUndefined();
		expect(packed.bytes * 3).toBeLessThan(plain.bytes);
	});
});
