import fc from 'fast-check';
import Fraction from 'fraction.js';
import { describe, expect, it } from 'vitest';
import { planRepack, type Packs, type Source } from './plan.ts';

const sum = (list: readonly Fraction[]) => list.reduce((s, f) => s.add(f), new Fraction(0));
const source = (key: string, content: string, loss = '0'): Source => ({ key, content, loss });
const packs = (key: string, qty: string, each: string, decimals = 0): Packs => ({ key, qty, each, decimals });

/** The fewest packs that mix, by trying every way to give each pack to one lot or to none. */
function fewestMixed(room: number[], sizes: number[]): number {
	const left = [...room];
	let best = sizes.length;
	const go = (i: number, mixed: number) => {
		if (mixed >= best) return;
		if (i === sizes.length) return void (best = mixed);
		for (let n = 0; n < left.length; n++) {
			if (left[n] < sizes[i]) continue;
			left[n] -= sizes[i];
			go(i + 1, mixed);
			left[n] += sizes[i];
		}
		go(i + 1, mixed + 1);
	};
	go(0, 0);
	return best;
}

describe('repacking', () => {
	it('30 packs of 3 kg of one lot become 30 of 1 kg and 30 of 2 kg (arithmetic)', async () => {
		const plan = await planRepack([source('A', '90')], [packs('1 kg', '30', '1'), packs('2 kg', '30', '2')], 'apart');
		expect(plan.filled).toEqual([
			{ source: 'A', packs: '1 kg', qty: '30' },
			{ source: 'A', packs: '2 kg', qty: '30' }
		]);
		expect(plan.balance).toEqual([{ source: 'A', content: '90', out: '90', loss: '0', left: '0' }]);
		expect([plan.mixed, plan.unfilled, plan.lacking]).toEqual([null, [], '0']);
	});
	it('says what is left of each lot, and what the packs lack', async () => {
		const less = await planRepack([source('A', '25', '0.4')], [packs('jar', '20', '1')], 'apart');
		expect(less.balance[0]).toMatchObject({ out: '20', loss: '0.4', left: '4.6' });
		const more = await planRepack([source('A', '25', '0.4')], [packs('jar', '26', '1')], 'apart');
		expect(more.lacking).toBe('1.4');
		expect(more.unfilled).toEqual([{ key: 'jar', qty: '2' }]);
	});
	it('finds the way to keep lots apart where the largest first would mix', async () => {
		const plan = await planRepack(
			[source('A', '9'), source('B', '8')],
			[packs('five', '1', '5'), packs('four', '3', '4')],
			'apart'
		);
		expect(plan.unfilled).toEqual([]);
		expect(plan.filled).toEqual([
			{ source: 'A', packs: 'five', qty: '1' },
			{ source: 'A', packs: 'four', qty: '1' },
			{ source: 'B', packs: 'four', qty: '2' }
		]);
		// Five first into A would leave four and three over.
		const harder = await planRepack(
			[source('A', '6'), source('B', '9')],
			[packs('five', '1', '5'), packs('four', '1', '4'), packs('three', '2', '3')],
			'apart'
		);
		expect(harder.unfilled).toEqual([]);
	});
	it('mixes what cannot be kept apart only where that is chosen, from what each lot has left', async () => {
		const lots = [source('A', '25'), source('B', '25')];
		const jars = [packs('jar', '25', '2')];
		expect((await planRepack(lots, jars, 'apart')).unfilled).toEqual([{ key: 'jar', qty: '1' }]);
		expect((await planRepack(lots, jars, 'rest')).mixed).toEqual({
			packs: [{ key: 'jar', qty: '1' }],
			from: [
				{ source: 'A', content: '1' },
				{ source: 'B', content: '1' }
			]
		});
		const all = await planRepack(lots, jars, 'all');
		expect(all.filled).toEqual([]);
		expect(all.mixed?.from).toEqual([
			{ source: 'A', content: '25' },
			{ source: 'B', content: '25' }
		]);
	});
	it('fills by the finest part of what is measured', async () => {
		const plan = await planRepack([source('A', '2.5'), source('B', '1.25')], [packs('kg', '3.75', '1', 2)], 'apart');
		expect(plan.unfilled).toEqual([]);
		expect(plan.filled.map((f) => f.qty)).toEqual(['2.5', '1.25']);
	});

	const lot = fc.record({ content: fc.integer({ min: 1, max: 14 }), loss: fc.integer({ min: 0, max: 3 }) });
	const kind = fc.record({ each: fc.integer({ min: 1, max: 6 }), count: fc.integer({ min: 0, max: 3 }) });
	const given = fc.record({
		lots: fc.array(lot, { minLength: 1, maxLength: 3 }),
		kinds: fc.array(kind, { minLength: 1, maxLength: 3 }),
		/** the same in tenths: contents are decimals */
		tenths: fc.boolean(),
		mixing: fc.constantFrom('apart' as const, 'rest' as const, 'all' as const)
	});
	it('adds up for every lot to the last decimal, whatever goes in and comes out', async () => {
		await fc.assert(
			fc.asyncProperty(given, async ({ lots, kinds, tenths, mixing }) => {
				const by = (n: number) => String(tenths ? n / 10 : n);
				const sources = lots.map((l, n) => source(`L${n}`, by(l.content), by(Math.min(l.loss, l.content))));
				const out = kinds.map((k, n) => packs(`P${n}`, String(k.count), by(k.each)));
				const plan = await planRepack(sources, out, mixing);
				for (const b of plan.balance) {
					expect(new Fraction(b.out).add(b.loss).add(b.left).equals(b.content)).toBe(true);
					expect(new Fraction(b.left).s).not.toBe(-1n);
					const packed = sum(
						plan.filled
							.filter((f) => f.source === b.source)
							.map((f) => new Fraction(f.qty).mul(out.find((p) => p.key === f.packs)!.each))
					);
					const mixed = plan.mixed?.from.find((f) => f.source === b.source)?.content ?? 0;
					expect(packed.add(mixed).equals(b.out)).toBe(true);
				}
				for (const p of out) {
					const of = [...plan.filled.filter((f) => f.packs === p.key), ...plan.unfilled.filter((u) => u.key === p.key)];
					const all = [...of, ...(plan.mixed?.packs.filter((m) => m.key === p.key) ?? [])];
					expect(sum(all.map((x) => new Fraction(x.qty))).equals(p.qty)).toBe(true);
				}
				if (plan.mixed) {
					const inside = sum(
						plan.mixed.packs.map((m) => new Fraction(m.qty).mul(out.find((p) => p.key === m.key)!.each))
					);
					expect(sum(plan.mixed.from.map((f) => new Fraction(f.content))).equals(inside)).toBe(true);
				}
			}),
			{ numRuns: 300 }
		);
	});
	it('mixes as few packs as trying every way does', async () => {
		await fc.assert(
			fc.asyncProperty(given, async ({ lots, kinds }) => {
				const room = lots.map((l) => Math.max(0, l.content - l.loss));
				const plan = await planRepack(
					lots.map((l, n) => source(`L${n}`, String(l.content), String(Math.min(l.loss, l.content)))),
					kinds.map((k, n) => packs(`P${n}`, String(k.count), String(k.each))),
					'apart'
				);
				const over = plan.unfilled.reduce((s, u) => s + Number(u.qty), 0);
				expect(over).toBe(
					fewestMixed(
						room,
						kinds.flatMap((k) => Array<number>(k.count).fill(k.each))
					)
				);
			}),
			{ numRuns: 300 }
		);
	});
	it('keeps hundreds of packs of five lots apart where that can be', async () => {
		const lots = [371, 842, 655, 1203, 929].map((n, i) => source(`L${i}`, String(n)));
		// 4,000 in all: 300 × 7 + 250 × 5 + 216 × 3 is 3,998.
		const plan = await planRepack(
			lots,
			[packs('7', '300', '7'), packs('5', '250', '5'), packs('3', '216', '3')],
			'apart'
		);
		expect(plan.unfilled).toEqual([]);
		expect(sum(plan.balance.map((b) => new Fraction(b.left))).equals(2)).toBe(true);
	});
});
