import canonicalize from 'canonicalize';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { traceBack } from '../../src/lib/core/trace/back.ts';
import { traceForward } from '../../src/lib/core/trace/forward.ts';
import { freePort } from '../../src/lib/server/database/cluster.ts';
import { connect, type Db } from '../../src/lib/server/database/connect.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { entriesFrom, sealAll } from '../../src/lib/server/ledger/seal.ts';
import { backAnswer, forwardAnswer } from '../traced.ts';
import { readGolden } from '../golden/golden.ts';
import { rebuild } from '../entries.ts';
import { firmOf } from '../started.ts';
import { ines, makeItems, testDatabase } from './cluster.ts';

const allEntries = async (sql: Db): Promise<string[]> => {
	await sealAll(sql);
	const out: string[] = [];
	for (;;) {
		const some = await entriesFrom(sql, out.length, 1000);
		if (!some.length) return out;
		out.push(...some.map((e) => e.entry));
	}
};

/** Holds what the entries tell against what the tables say: stock, and the traces of so many lots and serials. */
async function compare(sql: Db, most: number) {
	const entries = await allEntries(sql);
	for (const text of entries) expect(canonicalize(JSON.parse(text))).toBe(text);
	const { marks, balances, slice } = rebuild(entries);
	const stock = await sql<{ key: string; qty: string }[]>`
		SELECT b.mark_id || ' ' || p.code AS key, trim_scale(b.qty)::text AS qty FROM balance b JOIN place p ON p.id = b.place_id WHERE b.qty <> 0`;
	expect(Object.fromEntries(balances)).toEqual(Object.fromEntries(stock.map((s) => [s.key, s.qty])));
	const now = await sql<
		{ id: string; number: string | null; status: string; parent: string | null }[]
	>`SELECT id, number, status, parent_id AS parent FROM mark`;
	expect([...marks.values()].map(({ id, number, status, parent }) => ({ id, number, status, parent }))).toEqual(
		expect.arrayContaining(now.map((m) => ({ ...m })))
	);

	const numbered = [...marks.values()].filter((m) => m.kind !== 'unmarked');
	const step = Math.max(1, Math.floor(numbered.length / most));
	let traced = 0;
	for (const root of numbered.filter((_, i) => i % step === 0)) {
		const named = { item: root.item, lot: null, serial: null, [root.kind]: root.number };
		const roots = [root.id, ...[...marks.values()].filter((m) => m.parent === root.id).map((m) => m.id)];
		const name = (mark: string | null) => (mark ? `${marks.get(mark)!.item} ${marks.get(mark)!.number}` : 'run');
		const forward = traceForward(slice, roots);
		const theirs = (await forwardAnswer(sql, named, {}))!;
		const row = (who: string, state: string, content: string) => `${who} ${state} ${content}`;
		expect([...forward.where].map((w) => row(name(w.mark), w.state, w.content.toFraction())).sort()).toEqual(
			theirs.where
				.map((w) => row('item' in w && w.item ? `${w.item} ${w.serial ?? w.lot}` : 'run', w.state, w.content))
				.sort()
		);
		const back = traceBack(slice, roots);
		const backs = (await backAnswer(sql, named, {}))!;
		expect([...new Set(back.marks.map((m) => name(m.mark)))].sort()).toEqual(
			[...new Set(backs.marks.map((m) => `${m.item} ${m.serial ?? m.lot}`))].sort()
		);
		traced++;
	}
	return traced;
}

describe.each([1, 2, 3])('the entries of golden ledger %i alone', (n) => {
	const db = testDatabase();
	it('give its stock and every trace', async () => {
		await makeItems(db.sql);
		for (const event of readGolden(n).ledger.events)
			await book(db.sql, ines, event as never, { create: { places: true, partners: true } });
		expect(await compare(db.sql, 1000)).toBeGreaterThan(5);
	});
});

describe('the entries of the demo firm alone', () => {
	const db = testDatabase();
	it('give its stock and its traces', async () => {
		const sql = connect(await firmOf(db.url, true, await freePort()), 'app', 4);
		expect(await compare(sql, 60)).toBeGreaterThan(50);
		await sql.end();
	});
});

describe('canonical JSON in the database', () => {
	const db = testDatabase();
	const canonical = async (value: unknown) =>
		(await db.sql<{ text: string }[]>`SELECT canonical(${JSON.stringify(value)}::text::jsonb) AS text`)[0].text;
	it('writes the strings and literals of the example in RFC 8785, 3.2.2, as it does', async () => {
		const example = { string: '€$\u000f\nA\'B"\\\\"/', literals: [null, true, false] };
		expect(await canonical(example)).toBe('{"literals":[null,true,false],"string":"€$\\u000f\\nA\'B\\"\\\\\\\\\\"/"}');
	});
	it('orders members as the example in RFC 8785, 3.2.3, does', async () => {
		const example = {
			'€': 'Euro Sign',
			'\r': 'Carriage Return',
			'\ufb33': 'Hebrew Letter Dalet With Dagesh',
			'1': 'One',
			'😀': 'Emoji: Grinning Face',
			'\u0080': 'Control',
			ö: 'Latin Small Letter O With Diaeresis'
		};
		const values = [...(await canonical(example)).matchAll(/:"([^"]+)"/g)].map((m) => m[1]);
		expect(values).toEqual([
			'Carriage Return',
			'One',
			'Control',
			'Latin Small Letter O With Diaeresis',
			'Euro Sign',
			'Emoji: Grinning Face',
			'Hebrew Letter Dalet With Dagesh'
		]);
	});
	it('writes whatever there is as the reference package does, numbers as decimal text', async () => {
		const text = fc.string({ unit: 'grapheme', maxLength: 8 }).filter((t) => !t.includes('\0') && t.isWellFormed());
		const { value } = fc.letrec<{ value: unknown }>((tie) => ({
			value: fc.oneof(
				{ maxDepth: 3 },
				text,
				fc.boolean(),
				fc.constant(null),
				fc.array(tie('value'), { maxLength: 4 }),
				fc.dictionary(text, tie('value'), { maxKeys: 5 })
			)
		}));
		await fc.assert(
			fc.asyncProperty(value, async (v) => {
				expect(await canonical(v)).toBe(canonicalize(v));
			}),
			{ numRuns: 150 }
		);
		expect(await canonical({ b: 0.5, a: 12, c: [1e3] })).toBe('{"a":"12","b":"0.5","c":["1000"]}');
	});
});
