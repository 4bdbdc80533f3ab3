import { readFileSync } from 'node:fs';
import { createServer, connect as dial, type Socket } from 'node:net';
import { Agent, request } from 'undici';
import { PASSWORD } from '../../../demo/firm.ts';
import type { Sql } from '../../../src/lib/server/database/connect.ts';
import { addPerson } from '../../../src/lib/server/people/people.ts';
import { serve } from '../bookings.ts';
import { median, time, undisturbed } from '../measure.ts';

/** A door to a database server that counts the statements which pass through it. */
async function counted(url: string): Promise<{ url: string; statements: () => number; close: () => void }> {
	let n = 0;
	const at = new URL(url);
	const [host, port] = [at.hostname, Number(at.port)];
	const sockets = new Set<Socket>();
	const door = createServer((inner) => {
		const outer = dial(port, host);
		for (const s of [inner, outer]) {
			s.setNoDelay(true);
			s.on('error', () => s.destroy());
			sockets.add(s);
		}
		// The first message has no letter; each of the others is one, and its length. E executes, Q is a plain statement.
		let [rest, begun]: [Buffer, boolean] = [Buffer.alloc(0), false];
		inner.on('data', (d: Buffer) => {
			outer.write(d);
			rest = rest.length ? Buffer.concat([rest, d]) : d;
			for (;;) {
				const head = begun ? 1 : 0;
				if (rest.length < head + 4) return;
				const length = head + rest.readUInt32BE(head);
				if (rest.length < length) return;
				if (begun && (rest[0] === 69 || rest[0] === 81)) n++;
				begun = true;
				rest = rest.subarray(length);
			}
		});
		outer.on('data', (d: Buffer) => inner.write(d));
		inner.on('close', () => outer.destroy());
		outer.on('close', () => inner.destroy());
	});
	await new Promise<void>((done) => door.listen(0, '127.0.0.1', done));
	at.port = String((door.address() as { port: number }).port);
	return {
		url: at.href,
		statements: () => n,
		close: () => {
			for (const s of sockets) s.destroy();
			door.close();
		}
	};
}

/** How something is sent. */
type Method = 'POST' | 'PUT' | 'DELETE';

/** What a call came to. */
export interface Asked {
	/** median, in ms */
	took: number;
	statements: number;
	bytes: number;
	/** the longest that a small request waited meanwhile, in ms */
	waited: number;
}
/** The application on a database, as somebody who is signed in uses it. */
export interface Asker {
	/**
	 * @param path a function where it is to be another one each time
	 * @param times how often it is asked, the first time uncounted where it is more than once
	 */
	ask: (path: string | (() => string), times?: number) => Promise<Asked>;
	/** small requests, one after the other, until the work ends: how long each took, in ms */
	beside: (work: () => Promise<unknown>) => Promise<number[]>;
	/** asks or sends once, as somebody who is signed in: the status, and what came */
	call: (path: string, body?: unknown, method?: Method) => Promise<{ status: number; text: string }>;
	/** the most memory that the application has held, in MB */
	memory: () => number;
	stop: () => Promise<void>;
}

/** Starts the application and signs in as coordinator. */
export async function startAsker(url: string, sql: Sql): Promise<Asker> {
	const known = await sql`SELECT 1 FROM person WHERE login = 'bench'`;
	if (!known.length) {
		await addPerson(sql, 'bench', { login: 'bench', name: 'Bench', role: 'coordinator', password: PASSWORD });
		// Nobody is there to set one of their own.
		await sql`UPDATE person SET password_given = false WHERE login = 'bench'`;
	}
	const door = await counted(url);
	const app = await serve(door.url);
	const base = `http://127.0.0.1:${app.port}`;
	const agent = new Agent({ connections: 12, bodyTimeout: 300_000, headersTimeout: 300_000 });
	const signed = await request(`${base}/sign-in`, {
		dispatcher: agent,
		method: 'POST',
		headers: { origin: base, 'content-type': 'application/x-www-form-urlencoded' },
		body: new URLSearchParams({ login: 'bench', password: PASSWORD }).toString()
	});
	const set = [signed.headers['set-cookie'] ?? []].flat();
	const cookie = set.map((c) => c.split(';')[0]).join('; ');
	const sent = async (path: string, given?: unknown, method: Method = 'POST') => {
		const { statusCode, body } = await request(base + path, {
			dispatcher: agent,
			headers: { cookie, origin: base, ...(given ? { 'content-type': 'application/json' } : {}) },
			...(given ? { method, body: JSON.stringify(given) } : {})
		});
		return { status: statusCode, text: await body.text() };
	};
	const call = async (path: string) => {
		const { status, text } = await sent(path);
		if (status >= 400) throw new Error(`${path}: ${status} ${text.slice(0, 300)}`);
		return text;
	};
	const beside = async (work: () => Promise<unknown>) => {
		const waits: number[] = [];
		let going = true;
		const done = work().finally(() => (going = false));
		while (going) {
			waits.push(await time(() => call('/api/v1/healthz')));
			await new Promise((next) => setTimeout(next, 5));
		}
		await done;
		return waits;
	};
	return {
		beside,
		call: sent,
		ask: async (path, times = 5) => {
			const next = () => call(typeof path === 'string' ? path : path());
			if (times > 1) await next();
			return undisturbed(async () => {
				let text = '';
				const took: number[] = [];
				const before = door.statements();
				for (let n = 0; n < times; n++) took.push(await time(async () => (text = await next())));
				const statements = (door.statements() - before) / times;
				const waits = await beside(next);
				return { took: median(took), statements, bytes: Buffer.byteLength(text), waited: Math.max(...waits) };
			});
		},
		memory: () => Number(/VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${app.pid}/status`, 'utf8'))![1]) / 1000,
		stop: async () => {
			await agent.close();
			await app.stop();
			door.close();
		}
	};
}
