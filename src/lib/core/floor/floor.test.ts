import fc from 'fast-check';
import Fraction from 'fraction.js';
import { describe, expect, it } from 'vitest';
import { ACTS, move, type Act, type Operation, type Where } from './moves.ts';
import { yieldOf, type StepTaken } from './yield.ts';

const operation = (code: string): Operation => ({ code, name: code, stations: [], recordsUse: false, values: [] });
const route = ['KIT', 'ASSEMBLY', 'TEST'].map(operation);
const at = (operation: string, state: Where['state'], was: Where['was'] = null): Where => ({ operation, state, was });
const go = (from: Where | null, act: Act, operation?: string) => move(route, from, { act, operation, unit: 'WM-1' });

describe('a unit on its route', () => {
	// Row by row as the interface for programs lays it down.
	it.each<[Where | null, Act, string | undefined, Where | null]>([
		[null, 'release', undefined, at('KIT', 'queued')],
		[null, 'read', undefined, null],
		[at('KIT', 'queued'), 'release', undefined, null],
		[at('KIT', 'queued'), 'read', undefined, at('KIT', 'in process')],
		[at('KIT', 'in process'), 'read', undefined, at('ASSEMBLY', 'queued')],
		[at('TEST', 'in process'), 'read', undefined, at('TEST', 'complete')],
		[at('TEST', 'complete'), 'read', undefined, null],
		[at('KIT', 'in process'), 'hold', undefined, at('KIT', 'held', 'in process')],
		[at('KIT', 'held', 'in process'), 'hold', undefined, null],
		[at('KIT', 'held', 'in process'), 'read', undefined, null],
		[at('KIT', 'held', 'in process'), 'rework', undefined, null],
		[at('KIT', 'held', 'in process'), 'out of rework', undefined, null],
		[at('KIT', 'held', 'in process'), 'scrap', undefined, at('KIT', 'scrapped')],
		[at('KIT', 'held', 'in process'), 'release hold', undefined, at('KIT', 'in process')],
		[at('KIT', 'queued'), 'release hold', undefined, null],
		[at('TEST', 'complete'), 'rework', undefined, at('TEST', 'rework')],
		[at('TEST', 'complete'), 'rework', 'KIT', at('KIT', 'rework')],
		[at('KIT', 'queued'), 'rework', 'TEST', null],
		[at('KIT', 'queued'), 'rework', 'NONE', null],
		[at('KIT', 'rework'), 'rework', undefined, null],
		[at('KIT', 'rework'), 'read', undefined, null],
		[at('KIT', 'rework'), 'out of rework', undefined, at('KIT', 'queued')],
		[at('KIT', 'queued'), 'out of rework', undefined, null],
		[at('KIT', 'scrapped'), 'read', undefined, null],
		[at('KIT', 'scrapped'), 'scrap', undefined, null]
	])('%j %s %s → %j', (from, act, operation, to) => {
		const came = go(from, act, operation);
		if (to) expect(came).toEqual(to);
		else expect(came).toMatchObject({ problem: expect.stringMatching(/^WM-1 .*\.$|^There is no operation/) });
	});
	it('is always somewhere on its route, and a scrapped one stays scrapped, whatever is tried', () => {
		const tries = fc.array(
			fc.tuple(
				fc.constantFrom(...ACTS),
				fc.option(fc.constantFrom('KIT', 'ASSEMBLY', 'TEST', 'X'), { nil: undefined })
			),
			{ maxLength: 40 }
		);
		fc.assert(
			fc.property(tries, (acts) => {
				let where: Where | null = null;
				let furthest = -1;
				for (const [act, operation] of acts) {
					const before: Where | null = where;
					const came = go(where, act, operation);
					if ('problem' in came) continue;
					where = came;
					const index = route.findIndex((o) => o.code === came.operation);
					expect(index).toBeGreaterThanOrEqual(0);
					// Nothing is passed over: one operation further at most, and only by a read.
					if (index > furthest) expect([act, index]).toEqual([furthest < 0 ? 'release' : 'read', furthest + 1]);
					furthest = Math.max(furthest, index);
					expect(before?.state === 'scrapped').toBe(false);
					expect(came.state === 'held').toBe(came.was !== null);
				}
			})
		);
	});
});

describe('the yield', () => {
	/** A worked table: of 100 units that start an operation 92 pass first time, 5 are reworked and pass, 3 are scrapped. */
	const worked = (operation: string, next: string | null, pass: number, rework: number, scrap: number): StepTaken[] => {
		const steps: StepTaken[] = [];
		const step = (unit: string, at: number, act: Act, from: Where | null, to: Where) =>
			steps.push({ unit, at, act, from, to });
		const out = next ? at(next, 'queued') : at(operation, 'complete');
		for (let i = 0; i < pass + rework + scrap; i++) {
			const unit = `${operation}-${i}`;
			step(unit, 1, 'read', at(operation, 'queued'), at(operation, 'in process'));
			if (i < pass) step(unit, 2 + i, 'read', at(operation, 'in process'), out);
			else if (i < pass + rework) {
				// Twice, which counts once.
				for (const n of [0, 1]) {
					step(unit, 10 + 4 * n, 'rework', at(operation, 'in process'), at(operation, 'rework'));
					step(unit, 11 + 4 * n, 'out of rework', at(operation, 'rework'), at(operation, 'queued'));
					step(unit, 12 + 4 * n, 'read', at(operation, 'queued'), at(operation, 'in process'));
				}
				step(unit, 30, 'read', at(operation, 'in process'), out);
			} else step(unit, 9, 'scrap', at(operation, 'in process'), at(operation, 'scrapped'));
		}
		return steps;
	};
	it('of 100 started, 92 passed first time, 5 reworked, 3 scrapped is 23/25', () => {
		const { operations, rolledThroughputYield } = yieldOf(worked('A', null, 92, 5, 3), ['A'], 0, 1000);
		expect(operations[0]).toMatchObject({ started: 100, passedFirst: 92, reworked: 5, scrapped: 3 });
		expect(operations[0].firstPassYield!.toFraction()).toBe('23/25');
		expect(rolledThroughputYield!.toFraction()).toBe('23/25');
	});
	it('rolls 0.92, 0.95 and 0.98 to 0.85652 (arithmetic: 0.92 × 0.95 = 0.874; × 0.98 = 0.85652)', () => {
		const steps = [...worked('A', 'B', 92, 5, 3), ...worked('B', 'C', 95, 5, 0), ...worked('C', null, 98, 1, 1)];
		const { rolledThroughputYield } = yieldOf(steps, ['A', 'B', 'C'], 0, 1000);
		expect(rolledThroughputYield!.equals(new Fraction('0.85652'))).toBe(true);
	});
	it('counts what falls in the period, and knows what was before it', () => {
		const steps: StepTaken[] = [
			{ unit: 'U', at: 10, act: 'read', from: at('A', 'queued'), to: at('A', 'in process') },
			{ unit: 'U', at: 20, act: 'rework', from: at('A', 'in process'), to: at('A', 'rework') },
			{ unit: 'U', at: 30, act: 'out of rework', from: at('A', 'rework'), to: at('A', 'queued') },
			{ unit: 'U', at: 40, act: 'read', from: at('A', 'queued'), to: at('A', 'in process') },
			{ unit: 'U', at: 50, act: 'read', from: at('A', 'in process'), to: at('A', 'complete') }
		];
		// It started before and was reworked before: neither started nor passed first time here.
		expect(yieldOf(steps, ['A'], 35, 100).operations[0]).toMatchObject({
			started: 0,
			passedFirst: 0,
			reworked: 0,
			firstPassYield: null,
			cycleMedian: 10
		});
		expect(yieldOf(steps, ['A'], 0, 35).operations[0]).toMatchObject({ started: 1, passedFirst: 0, reworked: 1 });
		// The end of the period belongs to the next one.
		expect(yieldOf(steps, ['A'], 0, 50).operations[0].cycleMedian).toBeNull();
	});
	it('gives the middle and the ninetieth of a hundred by the nearest rank', () => {
		const { operations } = yieldOf(worked('A', null, 100, 0, 0), ['A'], 0, 1000);
		// They took 1 to 100.
		expect([operations[0].cycleMedian, operations[0].cycle90]).toEqual([50, 90]);
	});
});
