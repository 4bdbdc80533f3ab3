import { describe, expect, it } from 'vitest';
import { sayCounted, type Counted } from './counted.ts';

const lots = (qty: string, numbers: number, unit = 'each'): Counted => ({ kind: 'lot', unit, numbers, qty });

describe('what an event moved is said as people count it', () => {
	it.each<[string, Counted[], string]>([
		['nothing', [], ''],
		['one piece of a lot', [lots('1', 1)], '1 piece in 1 lot'],
		['pieces of lots', [lots('140', 3)], '140 pieces in 3 lots'],
		['lots of two units', [lots('5', 1, 'kg'), lots('140', 2)], '5 kg and 140 pieces in 3 lots'],
		['serials', [{ kind: 'serial', unit: 'each', numbers: 10_000, qty: '10000' }], '10,000 serials'],
		['one serial', [{ kind: 'serial', unit: 'each', numbers: 1, qty: '1' }], '1 serial'],
		[
			'of each something',
			[
				{ kind: 'serial', unit: 'each', numbers: 40, qty: '40' },
				{ kind: 'unmarked', unit: 'm', numbers: 1, qty: '2.5' },
				lots('140', 3)
			],
			'140 pieces in 3 lots, 2.5 m without a number, 40 serials'
		]
	])('%s', (_what, counted, said) => expect(sayCounted(counted)).toBe(said));
});
