import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { barsText, seenIn } from './seen.ts';
import { MOST_LINES, Shown, type Asked, type Line } from './shown.ts';
import { layStages } from './stages.ts';
import type { Step, TraceMark, TraceView, WhereRow } from './view.ts';

const mark = (id: string, kind: 'lot' | 'serial', item: string): TraceMark => ({
	...{ id, kind, number: id, lot: null, item, itemName: `The ${item}`, unit: kind === 'lot' ? 'kg' : 'each' },
	...{ expiresOn: null, status: 'released' }
});
/** A lot in batches, each packed as pieces: half of each batch is with a customer, half on a shelf. */
function viewOf(batches: number, pieces: number): TraceView {
	const marks = [mark('ROOT', 'lot', 'RAW')];
	const steps: Step[] = [];
	const where: WhereRow[] = [];
	const whole = batches * pieces;
	const side = (id: string, role: 'use' | 'make', qty: number, part: number) =>
		({ mark: id, role, qty: String(qty), content: String(qty), part, known: 'scanned' }) as const;
	const step = (run: string, from: Step['inputs'], to: Step['outputs']): Step => ({
		...{ run, pooled: true, unit: null, at: '2026-03-01 09:00', document: run, open: false },
		...{ inputs: from, outputs: to }
	});
	for (let b = 0; b < batches; b++) {
		marks.push(mark(`B${b}`, 'lot', 'BULK'));
		const part = 1 / batches;
		steps.push(step(`R${b}`, [side('ROOT', 'use', 1, part)], [side(`B${b}`, 'make', 1, part)]));
		const made = Array.from({ length: pieces }, (_, i) => `P${b}-${String(i).padStart(5, '0')}`);
		for (const [i, id] of made.entries()) {
			marks.push(mark(id, 'serial', 'PACK'));
			const gone = i < pieces / 2;
			where.push({
				...{ mark: id, run: null, state: gone ? 'shipped' : 'on hand', at: gone ? `Customer ${b % 3}` : 'S1/B1' },
				customer: gone ? `Customer ${b % 3}` : null,
				...{ document: gone ? `D${b}` : null, date: null, qty: '1', content: '1', part: 1 / whole, known: null }
			});
		}
		steps.push(
			step(
				`R${b}-P`,
				[side(`B${b}`, 'use', 1, part)],
				made.map((id) => side(id, 'make', 1, 1 / whole))
			)
		);
	}
	return {
		...{
			direction: 'forward',
			root: 'ROOT',
			roots: 1,
			unit: 'kg',
			marks,
			steps,
			where,
			rootQty: String(batches),
			shares: false
		},
		reached: marks.map((m) => ({ mark: m.id, since: '2026-03-01 09:00', now: true })),
		...{ balance: [], accounted: true, suppliers: [], formerly: [], gaps: [] },
		known: { scanned: 0, entered: 0, accepted: 0, reported: 0, unknown: 0 },
		...{ pooled: steps.length, exact: 0, levels: 3 }
	};
}
const all: Asked = { part: 'where', find: '', opened: [], closed: [], from: 0, size: 1_000_000 };
const said = (l: Line) => l.heading ?? `${l.level}:${l.numbers?.first.number}…${l.numbers?.count}`;

describe('what is shown of a trace', () => {
	it('is the same by pages as whole, whatever is unfolded and found', () => {
		const shown = new Shown(viewOf(12, 9));
		const keys = new Shown(viewOf(12, 9)).lines({ ...all, part: 'numbers' }).lines.map((l) => l.key);
		fc.assert(
			fc.property(
				fc.constantFrom('where', 'customers', 'numbers', 'gaps' as const),
				fc.constantFrom('', 'p1-', 'customer 2', 'D3', 'nothing like it'),
				fc.subarray(keys),
				fc.integer({ min: 1, max: 7 }),
				(part, find, opened, size) => {
					const asked = { ...all, part: part as Asked['part'], find, opened };
					const whole = shown.lines(asked);
					const pages: Line[] = [];
					for (let from = 0; from < whole.total; from += size)
						pages.push(...shown.lines({ ...asked, from, size }).lines);
					expect(pages).toEqual(whole.lines);
					expect(new Set(pages.map((l) => l.key)).size).toBe(pages.length);
				}
			)
		);
	});
	it('says every piece once where it is now, in ranges that open', () => {
		const shown = new Shown(viewOf(3, 4));
		const { lines } = shown.lines(all);
		expect(lines.map(said)).toEqual([
			...['0:P0-00002…2', '0:P1-00002…2', '0:P2-00002…2', '0:P0-00000…2', '0:P1-00000…2', '0:P2-00000…2']
		]);
		const open = shown.lines({ ...all, opened: [lines[0].key] });
		expect(open.lines.slice(0, 3).map(said)).toEqual(['0:P0-00002…2', '1:P0-00002…1', '1:P0-00003…1']);
		expect(open.total).toBe(8);
		// A range is found by a number within it.
		expect(shown.lines({ ...all, find: 'p1-00003' }).lines.map(said)).toEqual(['0:P1-00002…2']);
	});
	it('has customers in their order, each with a heading', () => {
		const { lines } = new Shown(viewOf(4, 2)).lines({ ...all, part: 'customers' });
		expect(lines.map(said)).toEqual([
			...['Customer 0', '0:P0-00000…1', '0:P3-00000…1', 'Customer 1', '0:P1-00000…1', 'Customer 2', '0:P2-00000…1']
		]);
	});
	it('has what was issued to a job of a customer with what was shipped to them, and counts them once', () => {
		const view = viewOf(4, 2);
		const here = view.where.filter((w) => w.state === 'on hand');
		// One to a job for a customer who has others of it, one to a job of our own.
		Object.assign(here[1], { state: 'issued', at: 'Harbour survey, for Customer 0', customer: 'Customer 0' });
		Object.assign(here[2], { state: 'issued', at: 'Our laboratory' });
		const shown = new Shown(view);
		expect(shown.head().counts.customers).toBe(3);
		const { lines } = shown.lines({ ...all, part: 'customers' });
		expect(lines.map(said)).toEqual([
			...['Customer 0', '0:P0-00000…1', '0:P3-00000…1', '0:P1-00001…1'],
			...['Customer 1', '0:P1-00000…1', 'Customer 2', '0:P2-00000…1']
		]);
	});
	it('of many generations is folded at first, of few it is not', () => {
		const few = new Shown(viewOf(2, 3)).lines({ ...all, part: 'numbers' });
		expect(few.lines.map(said)).toEqual([
			...['0:ROOT…1', '1:B0…1', '2:P0-00000…1', '2:P0-00001…1', '2:P0-00002…1'],
			...['1:B1…1', '2:P1-00000…1', '2:P1-00001…1', '2:P1-00002…1']
		]);
		const many = new Shown(viewOf(40, 10));
		expect(many.lines({ ...all, part: 'numbers' }).total).toBe(41);
		const open = many.lines({ ...all, part: 'numbers', opened: ['/ROOT/B0'] });
		expect(open.lines.slice(0, 3).map(said)).toEqual(['0:ROOT…1', '1:B0…1', '2:P0-00000…10']);
		const closed = many.lines({ ...all, part: 'numbers', closed: ['/ROOT'] });
		expect(closed.lines.map(said)).toEqual(['0:ROOT…1']);
	});
	it('holds a range of more than a document has numbers', () => {
		const shown = new Shown(viewOf(1, 60_000));
		const { lines, total } = shown.lines({ ...all, size: MOST_LINES });
		expect([total, ...lines.map(said)]).toEqual([2, '0:P0-30000…30000', '0:P0-00000…30000']);
		const open = shown.lines({ ...all, opened: [lines[0].key], from: 29_990, size: MOST_LINES });
		expect([open.total, said(open.lines[0])]).toEqual([30_002, '1:P0-59989…1']);
		const tree = shown.lines({ ...all, part: 'numbers', opened: ['/ROOT/B0'] });
		expect(tree.lines.map(said)).toEqual(['0:ROOT…1', '1:B0…1', '2:P0-00000…60000']);
	});
});

describe('the picture of a trace', () => {
	it('is as small for thousands as for a few, and opens a column as far as it is asked', () => {
		const view = viewOf(2000, 4);
		const first = layStages(view);
		expect(first.list.length).toBeLessThan(20);
		expect(first.paths.length).toBeLessThan(40);
		const [fold] = first.list.filter((b) => b.folds);
		expect(fold).toMatchObject({ label: '1,994 more', folds: 1994, col: 1 });
		const more = layStages(view, (col) => (col === 1 ? 27 : 7));
		expect(more.list.filter((b) => b.col === 1)).toHaveLength(27);
		expect(more.list.find((b) => b.folds)).toMatchObject({ folds: 1974 });
		// Nothing is drawn over another bar, nor outside.
		for (const { list, height } of [first, more])
			for (const b of list) {
				expect(b.y + b.h).toBeLessThanOrEqual(height);
				for (const o of list) if (o !== b && o.col === b.col) expect(o.y >= b.y + b.h || b.y >= o.y + o.h).toBe(true);
			}
	});
	it('shows what each column holds: heights add up to the root', () => {
		fc.assert(
			fc.property(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 1, max: 6 }), (batches, pieces) => {
				const { list } = layStages(viewOf(batches, pieces));
				for (const col of [0, 1, 2, 3]) {
					const sum = list.filter((b) => b.col === col).reduce((n, b) => n + b.value, 0);
					expect(sum).toBeCloseTo(1, 6);
				}
			})
		);
	});
});

describe('what an address says of a page', () => {
	it('is read as it is written, and never breaks', () => {
		const bars: [number, number][] = [
			[1, 27],
			[3, 47]
		];
		const params = new URLSearchParams({ tab: 'gaps', find: 'x', row: '200', bars: barsText(bars) });
		expect(seenIn(params, 'forward')).toEqual({ part: 'gaps', find: 'x', from: 200, bars });
		expect(seenIn(new URLSearchParams(), 'back')).toEqual({ part: 'numbers', find: '', from: 0, bars: [] });
		fc.assert(
			fc.property(fc.string(), fc.string(), fc.string(), (tab, row, text) => {
				const seen = seenIn(new URLSearchParams({ tab, row, bars: text }), 'forward');
				expect(Number.isInteger(seen.from) && seen.from >= 0).toBe(true);
				for (const [col, most] of seen.bars) expect(col >= 0 && most > 0).toBe(true);
			})
		);
	});
});
