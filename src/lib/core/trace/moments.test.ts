import { describe, expect, it } from 'vitest';
import { traceBack } from './back.ts';
import { traceForward } from './forward.ts';
import type { LedgerSlice, Moved } from './types.ts';

/*
 * Times at which one moment decides; worked by hand from the definition of a trace: a unit holds what is in it at the time that
 * is asked, a lot goes in when it was used, a serial is in its unit as it is then.
 */

const at = (second: number) => `2026-03-01T08:00:${String(second).padStart(2, '0')}.000000Z`;
type Step = [second: number, mark: string, qty: string, role: Moved['role'] | 'in', run?: string];

/** Units by their names (U-…), serials (S-…) and lots. */
function ledger(units: Record<string, string>, steps: Step[]): LedgerSlice {
	const names = new Set([...steps.map(([, mark]) => mark), ...Object.values(units)]);
	const kind = (n: string) => (/^[SU]-/.test(n) ? ('serial' as const) : ('lot' as const));
	const runs = new Set(steps.flatMap(([, , , , run]) => run ?? []));
	return {
		marks: new Map(
			[...names].map((n) => [
				n,
				{ id: n, kind: kind(n), lot: null, item: n, measure: null, measureUnit: null } as never
			])
		),
		runs: new Map(
			[...runs].map((id) => [id, { id, code: id, unit: units[id] ?? null, planned: null, closed: false } as never])
		),
		places: new Map(
			['@supplier', '@process', 'SHELF'].map((code) => [code, { id: code, code, virtual: code[0] === '@' } as never])
		),
		movements: steps.map(([second, mark, qty, role, run], i): Moved => ({
			...{ id: String(i + 1), at: at(second), mark, qty, run: run ?? null, partner: null, event: String(i + 1) },
			role: role === 'in' ? null : role,
			from: role === 'in' ? '@supplier' : role === 'use' ? 'SHELF' : '@process',
			to: role === 'use' ? '@process' : 'SHELF'
		}))
	} as LedgerSlice;
}
const back = (slice: LedgerSlice, root: string) =>
	new Map(traceBack(slice, [root]).marks.map((m) => [m.mark, m.until]));

describe('a trace back', () => {
	it('finds a serial in its unit as it is now, with what came into it after it was built in', () => {
		const slice = ledger({ RU: 'U-1', RS: 'S-1' }, [
			[1, 'OLD', '1', 'in'],
			[1, 'NEW', '1', 'in'],
			[2, 'OLD', '1', 'use', 'RS'],
			[3, 'S-1', '1', 'make', 'RS'],
			[4, 'S-1', '1', 'use', 'RU'],
			[5, 'U-1', '1', 'make', 'RU'],
			// The part is served inside its unit.
			[6, 'OLD', '1', 'detach', 'RS'],
			[7, 'NEW', '1', 'use', 'RS']
		]);
		expect([...back(slice, 'U-1')]).toEqual([
			['S-1', null],
			['NEW', at(7)]
		]);
		expect(traceBack(slice, ['U-1']).formerly).toEqual(['OLD']);
	});
	it('dates a lot by its last use, whatever was taken out after that', () => {
		const slice = ledger({ RU: 'U-1' }, [
			[1, 'L', '3', 'in'],
			[2, 'L', '1', 'use', 'RU'],
			[3, 'U-1', '1', 'make', 'RU'],
			[5, 'L', '1', 'use', 'RU'],
			[6, 'L', '1', 'detach', 'RU']
		]);
		expect(back(slice, 'U-1').get('L')).toBe(at(5));
	});
});

describe('a trace forward', () => {
	const slice = ledger({}, [
		[1, 'L', '2', 'in'],
		[5, 'L', '1', 'use', 'A'],
		[6, 'P', '1', 'make', 'A'],
		[7, 'L', '1', 'use', 'B'],
		[8, 'Q', '1', 'make', 'B']
	]);
	const reached = (since?: string) =>
		[...traceForward(slice, ['L'], since).marks].map((m) => m.mark).filter((m) => m !== 'L');
	it('from a moment on takes what happened at that very moment, and nothing of before', () => {
		expect(reached()).toEqual(['P', 'Q']);
		expect(reached(at(5))).toEqual(['P', 'Q']);
		expect(reached('2026-03-01T08:00:05.000001Z')).toEqual(['Q']);
		expect(reached(at(7))).toEqual(['Q']);
		expect(reached('2026-03-01T08:00:07.000001Z')).toEqual([]);
	});
});
