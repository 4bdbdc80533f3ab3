import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { allocate, PLAIN, PREFERENCES, REASONS, type Candidate, type Reason, type Terms } from './allocate.ts';

const TODAY = '2026-11-24';
const DAYS = [null, '2026-11-01', '2026-11-23', '2026-11-24', '2026-12-01', '2026-12-24', '2027-05-01'];
const PLACES = ['QS/A1', 'QS/A2', 'QS/DOCK', 'QN/B1', 'IN-TRANSIT', '@process'];

const row = fc.record({
	number: fc.integer({ min: 1, max: 12 }),
	place: fc.constantFrom(...PLACES),
	qty: fc.integer({ min: 1, max: 20 }),
	promised: fc.constantFrom(0, 0, 0, 3, 25),
	expiresOn: fc.constantFrom(...DAYS),
	status: fc.constantFrom('released', 'released', 'released', 'held', 'quarantine', 'rejected'),
	since: fc.constantFrom('2026-01-01', '2026-02-01', '2026-03-01'),
	owner: fc.constantFrom(null, null, null, 'Sken'),
	outside: fc.constantFrom(null, null, null, 'chloride 0.31 %, at most 0.30 %'),
	cameBack: fc.constantFrom(false, false, false, true),
	waits: fc.boolean(),
	staged: fc.constantFrom(0, 0, 4, 30)
});
/** A number has one date, status and day of coming, wherever it lies. */
const stockOf = (rows: (typeof row extends fc.Arbitrary<infer T> ? T : never)[]): Candidate[] => {
	const first = new Map<number, (typeof rows)[number]>();
	const seen = new Set<string>();
	return rows.flatMap((r) => {
		const is = first.get(r.number) ?? r;
		first.set(r.number, is);
		if (seen.has(`${r.number} ${r.place}`)) return [];
		seen.add(`${r.number} ${r.place}`);
		return [
			{
				...{ mark: String(r.number), number: `L${r.number}`, place: r.place, serial: false },
				...{ qty: String(r.qty), promised: String(r.promised) },
				...{ expiresOn: is.expiresOn, status: is.status, since: is.since },
				...{ owner: is.owner, outside: is.outside, cameBack: is.cameBack },
				waits: r.waits && r.place === 'QS/DOCK',
				transit: r.place === 'IN-TRANSIT',
				process: r.place === '@process' ? 'MIX-1' : null,
				staged: r.place === 'QS/A2' ? String(r.staged) : '0'
			}
		];
	});
};
const terms: fc.Arbitrary<Terms> = fc.record({
	preference: fc.constantFrom(...PREFERENCES),
	oneLot: fc.constant(false),
	daysLeft: fc.constantFrom(null, 0, 7, 30),
	notBefore: fc.constantFrom(null, '2026-12-20'),
	from: fc.constantFrom(null, 'QS', 'QS/A1'),
	newOnly: fc.boolean()
});
const DAY = 86_400_000;

/** The table of reasons, row by row, as plainly as it can be said. */
function reasonOf(c: Candidate, t: Terms): Reason | null {
	const left = c.expiresOn ? (Date.parse(c.expiresOn) - Date.parse(TODAY)) / DAY : Infinity;
	const site = t.from?.slice(0, 2);
	const table: [Reason, boolean][] = [
		['not ours', !!c.owner],
		['held', c.status === 'held'],
		['quarantine', c.status === 'quarantine'],
		['rejected', c.status === 'rejected'],
		['expired', left < 0],
		['too little life left', t.daysLeft !== null && left < t.daysLeft],
		['outside limits', !!c.outside],
		['came back', !!t.newOnly && !!c.cameBack],
		['promised', Number(c.promised) >= Number(c.qty)],
		['older than the last delivery', !!t.notBefore && !!c.expiresOn && c.expiresOn < t.notBefore],
		['other site', !!site && !c.transit && !c.process && !c.place.startsWith(site)],
		['other bin', t.from?.length === 5 && !c.transit && !c.process && c.place !== t.from],
		['in process', !!c.process],
		['in transit', !!c.transit],
		['staged', Number(c.promised) + Number(c.staged) >= Number(c.qty)],
		['not put away', !!c.waits],
		['counted now', !!c.counting]
	];
	expect(table.map(([reason]) => reason)).toEqual([...REASONS]);
	return table.find(([, applies]) => applies)?.[0] ?? null;
}
/** A sort and a walk. */
function reference(need: number, stock: readonly Candidate[], t: Terms) {
	const key = (c: Candidate) => {
		const number = c.number.slice(1).padStart(4, '0') + c.place;
		const last = c.cameBack ? '1' : '0';
		const [expires, since] = [c.expiresOn ?? '9', c.since];
		if (t.preference === 'by number') return last + number;
		return last + (t.preference === 'first in' ? since + number : `${expires.padEnd(10)}${since}${number}`);
	};
	const free = stock.filter((c) => !reasonOf(c, t)).sort((a, b) => (key(a) < key(b) ? -1 : 1));
	const picks: string[] = [];
	for (const c of free) {
		const take = Math.min(need, Number(c.qty) - Number(c.promised) - Number(c.staged));
		if (take) picks.push(`${c.mark} ${c.place} ${take}`);
		need -= take;
	}
	return { picks, short: String(need), leftOut: stock.flatMap((c) => reasonOf(c, t) ?? []) };
}

describe('what is taken', () => {
	it('is what a sort and a walk take, and each of the rest stays for the first reason of the table', () => {
		fc.assert(
			fc.property(fc.array(row, { maxLength: 25 }), fc.integer({ min: 1, max: 150 }), terms, (rows, need, t) => {
				const stock = stockOf(rows);
				const got = allocate(String(need), stock, TODAY, t);
				const want = reference(need, stock, t);
				expect(got.picks.map((p) => `${p.mark} ${p.place} ${p.qty}`)).toEqual(want.picks);
				expect(got.short).toBe(want.short);
				expect(got.leftOut.map((l) => l.reason)).toEqual(want.leftOut);
			}),
			{ numRuns: 3000 }
		);
	});
	it('says what put each before the next; the last says by what it follows', () => {
		const lot = (n: number, expiresOn: string | null, since: string): Candidate => ({
			...{ mark: String(n), number: `L${n}`, place: 'QS/A1', qty: '1', serial: false, status: 'released' },
			...{ expiresOn, since }
		});
		const stock = [
			lot(3, '2027-01-01', '2026-01-01'),
			lot(10, '2027-02-01', '2026-01-01'),
			lot(9, '2027-02-01', '2026-02-01'),
			lot(2, '2027-02-01', '2026-02-01')
		];
		const why = (preference: Terms['preference']) =>
			allocate('4', stock, TODAY, { ...PLAIN, preference }).picks.map((p) => `${p.mark} ${p.why}`);
		expect(why('expires first')).toEqual(['3 expires first', '10 first in', '2 by number', '9 by number']);
		expect(why('first in')).toEqual(['3 by number', '10 first in', '2 by number', '9 by number']);
		expect(why('by number')).toEqual(['2 by number', '3 by number', '9 by number', '10 by number']);
		expect(allocate('1', stock.slice(0, 1), TODAY).picks[0].why).toBe('expires first');
	});
	it('comes from as few lots as the quantity allows where one lot is asked, the first in order of those', () => {
		fc.assert(
			fc.property(
				fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 7 }),
				fc.integer({ min: 1, max: 40 }),
				(sizes, need) => {
					const stock = sizes.map((qty, n): Candidate => ({
						...{ mark: String(n), number: `L${n}`, place: 'QS/A1', qty: String(qty), serial: false },
						...{ status: 'released', expiresOn: null, since: '2026-01-01' }
					}));
					const { picks, short } = allocate(String(need), stock, TODAY, { ...PLAIN, oneLot: true });
					const all = sizes.reduce((s, q) => s + q, 0);
					expect(Number(short)).toBe(Math.max(0, need - all));
					// Every choice of lots, by brute force: the fewest that are enough.
					let fewest = sizes.length;
					for (let set = 1; set < 2 ** sizes.length; set++) {
						const chosen = sizes.filter((_, n) => set & (1 << n));
						if (chosen.reduce((s, q) => s + q, 0) >= need) fewest = Math.min(fewest, chosen.length);
					}
					if (all >= need) expect(picks).toHaveLength(fewest);
					if (all >= need && fewest === 1) expect(picks[0].mark).toBe(String(sizes.findIndex((q) => q >= need)));
				}
			),
			{ numRuns: 1000 }
		);
	});
	it('of one lot in several bins comes from as few bins as can be', () => {
		const at = (place: string, qty: string): Candidate => ({
			...{ mark: '1', number: 'L1', place, qty, serial: false, status: 'released' },
			...{ expiresOn: null, since: '2026-01-01' }
		});
		const stock = [at('QS/A1', '2'), at('QS/A2', '3'), at('QS/A3', '8'), at('QS/A4', '9')];
		const take = (need: string) =>
			allocate(need, stock, TODAY, { ...PLAIN, oneLot: true }).picks.map((p) => `${p.place} ${p.qty}`);
		expect([take('5'), take('12')]).toEqual([['QS/A3 5'], ['QS/A2 3', 'QS/A4 9']]);
	});
});
