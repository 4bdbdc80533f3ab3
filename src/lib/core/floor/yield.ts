import Fraction from 'fraction.js';
import type { Act, FloorState } from './moves.ts';

/** A step that a unit has taken, as far as its yield cares. */
export interface StepTaken {
	unit: string;
	/** when, in ms */
	at: number;
	act: Act;
	/** where it was before */
	from: { operation: string; state: FloorState } | null;
	/** where it is after */
	to: { operation: string; state: FloorState };
}
/** What came of one operation in a period. */
export interface OperationYield {
	operation: string;
	/** units that went in process there for the first time */
	started: number;
	/** units that completed there and had not been sent to rework or scrapped there before */
	passedFirst: number;
	/** units sent to rework while they stood there */
	reworked: number;
	/** units scrapped while they stood there */
	scrapped: number;
	/** passedFirst ÷ started; null when none started */
	firstPassYield: Fraction | null;
	/** from in process to complete, of units that completed there, in ms: the middle, and what nine of ten stay under */
	cycleMedian: number | null;
	cycle90: number | null;
}
/** A route's operations in a period, and what all of them leave of 100. */
export interface YieldReport {
	operations: OperationYield[];
	/** the product of the first-pass yields; null when one of them has none */
	rolledThroughputYield: Fraction | null;
}

/**
 * First-pass yield by operation and rolled throughput yield (their product), over a period.
 *
 * A unit counts as started at an operation when it first goes in process there within the period; as passed first time when
 * it completes there within the period and had not, at that operation, been sent to rework or scrapped before; as reworked
 * or scrapped at the operation where it stood when that act came, once however often; one that was through its whole route
 * stood at none.
 * @param steps all steps of the units, each unit's in the order of time; those before the period tell what was before
 * @param operations the codes that are wanted, in the order of the route
 * @param from and @param to the period in ms: from ≤ at < to
 */
export function yieldOf(
	steps: readonly StepTaken[],
	operations: readonly string[],
	from: number,
	to: number
): YieldReport {
	const rows = new Map(
		operations.map((code) => [
			code,
			{
				started: new Set<string>(),
				passed: new Set<string>(),
				reworked: new Set<string>(),
				scrapped: new Set<string>(),
				cycles: [] as number[]
			}
		])
	);
	/** "unit operation": when it first went in process there; whether it failed there */
	const begun = new Map<string, number>();
	const failed = new Set<string>();
	/** when it last went in process there */
	const since = new Map<string, number>();
	for (const s of steps) {
		if (s.at >= to) continue;
		const counts = s.at >= from;
		if (s.act === 'read' && s.to.state === 'in process') {
			const key = `${s.unit} ${s.to.operation}`;
			since.set(key, s.at);
			if (!begun.has(key)) {
				begun.set(key, s.at);
				if (counts) rows.get(s.to.operation)?.started.add(s.unit);
			}
		} else if (s.act === 'read' && s.from?.state === 'in process') {
			const key = `${s.unit} ${s.from.operation}`;
			const row = rows.get(s.from.operation);
			if (counts && row) {
				row.cycles.push(s.at - (since.get(key) ?? s.at));
				if (!failed.has(key)) row.passed.add(s.unit);
			}
			// It passed once: what comes after is no first time.
			failed.add(key);
		} else if ((s.act === 'rework' || s.act === 'scrap') && s.from && s.from.state !== 'complete') {
			failed.add(`${s.unit} ${s.from.operation}`);
			if (counts) rows.get(s.from.operation)?.[s.act === 'rework' ? 'reworked' : 'scrapped'].add(s.unit);
		}
	}
	const list = operations.map((operation): OperationYield => {
		const { started, passed, reworked, scrapped, cycles } = rows.get(operation)!;
		const sorted = [...cycles].sort((a, b) => a - b);
		return {
			operation,
			started: started.size,
			passedFirst: passed.size,
			reworked: reworked.size,
			scrapped: scrapped.size,
			firstPassYield: started.size ? new Fraction(passed.size, started.size) : null,
			cycleMedian: quantile(sorted, 0.5),
			cycle90: quantile(sorted, 0.9)
		};
	});
	const yields = list.map((o) => o.firstPassYield);
	return {
		operations: list,
		rolledThroughputYield:
			yields.length && yields.every((y) => y !== null) ? yields.reduce((p, y) => p!.mul(y!), new Fraction(1)) : null
	};
}

/** The value that a part of a sorted list lies at or below: the nearest rank. */
const quantile = (sorted: readonly number[], part: number): number | null =>
	sorted.length ? sorted[Math.ceil(sorted.length * part) - 1] : null;
