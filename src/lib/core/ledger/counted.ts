import { amount, type Qty } from '../quantity/quantity.ts';
import { grouped } from '../quantity/sign.ts';

/** Numbers of one kind and unit that an event moved. */
export interface Counted {
	kind: 'lot' | 'serial' | 'unmarked';
	unit: string;
	/** how many different ones */
	numbers: number;
	/** how much of them in all, in the unit */
	qty: Qty;
}

const some = (n: number, word: string) => `${grouped(n)} ${word}${n === 1 ? '' : 's'}`;
const pieces = (qty: Qty, unit: string) =>
	unit === 'each' ? `${amount(qty, unit)} ${qty === '1' ? 'piece' : 'pieces'}` : amount(qty, unit);

/** What an event moved, as people count it: "140 pieces in 3 lots, 5 kg without a number, 40 serials"; "" where nothing was. */
export function sayCounted(counted: readonly Counted[]): string {
	const of = (kind: Counted['kind']) => counted.filter((c) => c.kind === kind);
	const much = (list: Counted[]) => list.map((c) => pieces(c.qty, c.unit)).join(' and ');
	const all = (list: Counted[]) => list.reduce((n, c) => n + c.numbers, 0);
	const [lots, unmarked, serials] = [of('lot'), of('unmarked'), of('serial')];
	return [
		...(lots.length ? [`${much(lots)} in ${some(all(lots), 'lot')}`] : []),
		...(unmarked.length ? [`${much(unmarked)} without a number`] : []),
		...(serials.length ? [some(all(serials), 'serial')] : [])
	].join(', ');
}
