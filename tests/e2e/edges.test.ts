import { describe, expect, it } from 'vitest';
import { DOCUMENT_NAMES, documentPath } from '../../src/lib/core/document/kinds.ts';
import { PASSWORD } from '../../demo/firm.ts';
import { startApp } from './app.ts';

const app = startApp();

/** A session of its own, by its cookie; nothing else of a browser. */
async function session(login: string, to = '/', before = ''): Promise<{ cookie: string; location: string }> {
	const answer = await fetch(`${app.base}/sign-in?to=${encodeURIComponent(to)}`, {
		method: 'POST',
		redirect: 'manual',
		headers: {
			...{ origin: app.base, accept: 'text/html', cookie: before },
			'content-type': 'application/x-www-form-urlencoded'
		},
		body: new URLSearchParams({ login, password: PASSWORD })
	});
	const [cookie] = (answer.headers.get('set-cookie') ?? '').split(';');
	return { cookie, location: answer.headers.get('location') ?? '' };
}
const get = (path: string, cookie: string, headers: object = {}) =>
	fetch(app.base + path, { redirect: 'manual', headers: { cookie, ...headers } });
const post = (path: string, cookie: string, body: string) =>
	fetch(app.base + path, {
		method: 'POST',
		headers: { cookie, origin: app.base, 'content-type': 'application/json' },
		body
	});
/** Names that every object has, whether or not anybody gave it one. */
const INHERITED = ['constructor', 'toString', '__proto__', 'hasOwnProperty', 'valueOf', 'isPrototypeOf'];

describe('the edges of what is allowed', () => {
	it('the name of something that every object has is no act, no list, no call and no page', async () => {
		const { cookie } = await session('ines');
		for (const name of INHERITED) {
			for (const path of [
				`/orders/SO-3344/${name}`,
				`/work/${name}`,
				`/lists/${name}/count`,
				`/tables/${name}`,
				`/labels/${name}`,
				`/find?q=${name}`,
				`/setup/${name}`,
				`/api/v1/lists/${name}`,
				...DOCUMENT_NAMES.map((kind) => documentPath(kind, name))
			])
				for (const answer of [await get(path, cookie), await post(path, cookie, '{}')])
					expect(answer.status, `${path} ${answer.url}`).toBeLessThan(500);
			const list = await post(`/orders/${name}/sheet`, cookie, '[]');
			expect(list.status).toBeLessThan(500);
		}
	});
	it('after the sign-in nobody is sent to another host', async () => {
		for (const to of [
			'/.//evil.test',
			'/./\\evil.test',
			'//evil.test',
			'/\t/evil.test',
			'https://evil.test/',
			'/a/..//evil.test'
		])
			expect((await session('ines', to)).location, to).toBe('/');
		expect((await session('ines', '/register?find=QR')).location).toBe('/register?find=QR');
	});
	it('signing in over a session ends it, and signing out ends its streams', async () => {
		const first = await session('ines');
		const second = await session('tobi', '/', first.cookie);
		expect((await get('/register', first.cookie)).status).toBe(303);
		const stream = await get('/orders/PO-2214/live', second.cookie, { accept: 'text/event-stream' });
		expect(stream.status).toBe(200);
		const reader = stream.body!.getReader();
		await reader.read();
		await post('/sign-out', second.cookie, '');
		const ended = (async () => {
			for (;;) if ((await reader.read()).done) return true;
		})();
		await expect.poll(() => Promise.race([ended, Promise.resolve(false)])).toBe(true);
	});
	it('nothing that somebody signed in saw is kept by the browser', async () => {
		const { cookie } = await session('ines');
		for (const path of [
			'/',
			'/register',
			'/lists/register/count',
			'/find?q=QR-26-0417',
			'/orders/SO-3344/packing-list'
		]) {
			const answer = await get(path, cookie, { accept: 'application/json, text/html' });
			expect(answer.headers.get('cache-control'), path).toBe('no-store');
		}
		const page = await app.signIn('ines');
		await page.goto(app.base + '/register');
		await page.getByRole('button', { name: /Sign out/ }).click();
		await page.waitForURL('**/sign-in*');
		await page.goBack();
		await page.getByLabel('Sign-in name').waitFor();
	});
	it('an answer that is an error runs nothing', async () => {
		const { cookie } = await session('ines');
		for (const path of ['/files/0', '/files/999999', '/nowhere', '/labels/x/1', '/moves/0']) {
			const answer = await get(path, cookie, { accept: 'text/html' });
			if (!answer.headers.get('content-type')?.startsWith('text/html')) continue;
			expect(answer.headers.get('content-security-policy'), path).toMatch(/default-src/);
		}
	});
	it('lists within lists are refused before they are read, and nobody waits for them', async () => {
		const token = await app.token('auditor');
		const send = (body: string) =>
			fetch(`${app.base}/api/v1/allocations`, {
				method: 'POST',
				headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
				body
			});
		for (const depth of [65, 5_000_000]) {
			const refused = await send('['.repeat(depth));
			expect(refused.status).toBe(400);
			expect(await refused.text()).toContain('within each other');
		}
		// What stands in a text is no list, however many signs it has.
		expect((await send(JSON.stringify({ item: '['.repeat(200), qty: '1', purpose: 'use' }))).status).toBe(422);
	});
	it('the ledger’s entries and proofs are for whoever may see it, as its page is', async () => {
		const [{ id }] = await app.sql<{ id: string }[]>`SELECT id FROM event ORDER BY id LIMIT 1`;
		for (const [role, status] of [
			['assembly', 403],
			['service', 403],
			['auditor', 200]
		] as const) {
			const token = await app.token(role);
			for (const path of ['head', 'entries?from=0&count=1', `inclusion?event=${id}`, 'consistency?from=1&to=2']) {
				const answer = await fetch(`${app.base}/api/v1/ledger/${path}`, {
					headers: { authorization: `Bearer ${token}` }
				});
				expect(answer.status, `${role} ${path}`).toBe(status);
			}
		}
	});
	it('an auditor who looks at a paper keeps none', async () => {
		const [shipped] = await app.sql<{ code: string; id: string }[]>`
			SELECT o.code, e.id FROM event e JOIN orders o ON o.id = e.order_id WHERE e.kind = 'shipment'
				AND NOT EXISTS (SELECT 1 FROM paper p WHERE p.event_id = e.id) AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id) ORDER BY e.id LIMIT 1`;
		const path = `/orders/${shipped.code}/packing-list?event=${shipped.id}`;
		const kept = async () => (await app.sql`SELECT 1 FROM paper WHERE event_id = ${shipped.id}`).length;
		const auditor = await get(path, (await session('auditor')).cookie);
		expect(auditor.headers.get('content-type')).toBe('application/pdf');
		expect(await kept()).toBe(0);
		await get(path, (await session('tobi')).cookie);
		expect(await kept()).toBe(1);
	});
	it('a picture of an item is a picture', async () => {
		const token = await app.token('coordinator');
		const content = Buffer.from('%PDF-1.4 no picture').toString('base64');
		const answer = await fetch(`${app.base}/api/v1/items/CELL/picture`, {
			method: 'PUT',
			headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
			body: JSON.stringify({ name: 'a.pdf', content })
		});
		expect(answer.status).toBe(422);
		expect(await answer.text()).toContain('A picture is a PNG or JPEG');
	});
	it('rows that are filled while others book end in no deadlock', async () => {
		const token = await app.token('coordinator');
		const call = (method: string, path: string, body: object) =>
			fetch(`${app.base}/api/v1/orders${path}`, {
				method,
				headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
				body: JSON.stringify(body)
			});
		const made = await call('POST', '', {
			...{ kind: 'purchase', partner: 'QUILLMERE', site: 'QS/A1', lines: [{ item: 'DPD', qty: '9000' }] }
		});
		const { code } = (await made.json()) as { code: string };
		const rows = (n: number) => ({
			rows: Array.from({ length: 20 }, (_, i) => ({ line: 1, lot: `DL-${n}-${i}`, qty: '1', expiresOn: '2039-01-31' })),
			over: true
		});
		const answers = await Promise.all([
			...Array.from({ length: 40 }, (_, n) => call('PUT', `/${code}/rows`, rows(n))),
			...Array.from({ length: 10 }, (_, n) => call('POST', `/${code}/book`, { key: `edge-${n}` }))
		]);
		for (const a of answers) expect(a.status, await a.text()).toBeLessThan(500);
	});
});
