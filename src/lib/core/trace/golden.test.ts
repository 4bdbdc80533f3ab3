import { describe, expect, it } from 'vitest';
import {
	backDifferences,
	differences,
	markKey,
	readGolden,
	rootsOf,
	sliceOf,
	type BackAnswer,
	type ForwardAnswer,
	type GoldenEvent,
	type Named
} from '../../../../tests/golden/golden.ts';
import { traceBack } from './back.ts';
import { traceForward } from './forward.ts';

const named = (key: string): Named => {
	const serial = key.includes('#');
	const [item, number] = key.split(serial ? '#' : ':');
	return { item, lot: serial ? null : number, serial: serial ? number : null };
};

function forward(events: GoldenEvent[], root: Named): ForwardAnswer {
	const slice = sliceOf(events);
	const answer = traceForward(slice, rootsOf(slice, root));
	return {
		root,
		rootQty: answer.rootQty.toFraction(),
		marks: [...answer.marks].map((m) => ({ ...named(m.mark), since: m.since, now: m.now })),
		where: [...answer.where].map((w) => ({
			...(w.mark ? named(w.mark) : { run: w.run! }),
			state: w.state,
			at: w.at,
			qty: w.qty ?? undefined,
			content: w.content.toFraction()
		}))
	};
}
function back(events: GoldenEvent[], root: Named): BackAnswer {
	const slice = sliceOf(events);
	const answer = traceBack(slice, rootsOf(slice, root));
	const document = new Map(events.map((e) => [e.key, e.document!]));
	return {
		root,
		marks: answer.marks.map((m) => named(m.mark)),
		suppliers: answer.receipts.map((r) => ({
			partner: r.partner!,
			document: document.get(r.event)!
		}))
	};
}

describe.each([1, 2, 3])('golden ledger %i', (n) => {
	const golden = readGolden(n);
	it.each(golden.forward.map((a) => [a.root.item, a.root.lot ?? a.root.serial, a] as const))(
		'forward from %s %s',
		(_item, _number, want) => expect(differences(forward(golden.ledger.events, want.root), want)).toEqual([])
	);
	it.each(golden.back.map((a) => [a.root.item, a.root.lot ?? a.root.serial, a] as const))(
		'back from %s %s',
		(_item, _number, want) => expect(backDifferences(back(golden.ledger.events, want.root), want)).toEqual([])
	);

	/** A copy in which one thing is wrong must give at least one other answer. */
	const wrong = (change: (events: GoldenEvent[]) => void) => {
		const events = structuredClone(golden.ledger.events);
		change(events);
		return (
			golden.forward.some((a) => differences(forward(events, a.root), a).length > 0) ||
			golden.back.some((a) => backDifferences(back(events, a.root), a).length > 0)
		);
	};
	/** The first use, in a pooled run with an output, of a mark that the answers start from. */
	const used = (events: GoldenEvent[]) => {
		const roots = new Set(golden.forward.map((a) => markKey(a.root)));
		const makes = new Set(events.flatMap((e) => e.movements.filter((m) => m.role === 'make').map((m) => m.run)));
		return events.find(
			(e) =>
				e.kind === 'use' && !e.runs?.[0]?.unit && makes.has(e.movements[0].run) && roots.has(markKey(e.movements[0]))
		)!;
	};
	it('tells a tampered quantity', () => {
		const roots = new Set(golden.forward.map((a) => markKey(a.root)));
		const bump = (events: GoldenEvent[]) => {
			const m = events
				.flatMap((e) => (e.kind === 'receipt' ? e.movements : []))
				.find((x) => !x.serial && roots.has(markKey(x)))!;
			m.qty = Number(m.qty) + 1;
		};
		expect(wrong(bump)).toBe(true);
	});
	it('tells a tampered role', () => {
		expect(
			wrong((events) => {
				const m = used(events).movements[0];
				delete m.role;
				delete m.run;
			})
		).toBe(true);
	});
	it('tells a tampered time', () => {
		expect(wrong((events) => (used(events).at = '2027-01-01T00:00:00Z'))).toBe(true);
	});
});
