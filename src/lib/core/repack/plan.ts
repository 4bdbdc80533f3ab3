import Fraction from 'fraction.js';
import { exact, type Qty } from '../quantity/quantity.ts';
import { mostWhole } from './whole.ts';

/** A lot that goes in, with how much content of it: what its packs hold together. */
export interface Source {
	key: string;
	content: Qty;
	/** content that is written as lost */
	loss: Qty;
}
/** Packs of one kind that come out: how many base units, how much content one base unit holds, and the finest part of one. */
export interface Packs {
	key: string;
	qty: Qty;
	each: Qty;
	decimals: number;
}
/** What is to happen to packs that no single lot can fill: they stop the repacking, they mix lots, or everything mixes. */
export type Mixing = 'apart' | 'rest' | 'all';
/** Packs of one kind that hold one lot. */
export interface Filled {
	source: string;
	packs: string;
	qty: Qty;
}
/** What a repacking comes to. */
export interface Plan {
	/** packs that hold one lot each */
	filled: Filled[];
	/** packs that hold more than one, and how much content of each lot goes into them together */
	mixed: { packs: { key: string; qty: Qty }[]; from: { source: string; content: Qty }[] } | null;
	/** packs that no single lot can fill, where lots are kept apart */
	unfilled: { key: string; qty: Qty }[];
	/** of each lot: its content, what came out of it, what is lost, and what is in nothing yet */
	balance: { source: string; content: Qty; out: Qty; loss: Qty; left: Qty }[];
	/** content that the packs want and that does not go in; zero where enough does */
	lacking: Qty;
}

/**
 * Works out which pack holds which lot, so that as few packs as possible mix. Exact: every lot's content is what came out
 * of it, what is lost and what is left, to the last decimal.
 * @param sources lots in the order in which they are taken
 * @param packs what is to come out
 * @param mixing what becomes of packs that no single lot can fill
 */
export async function planRepack(sources: readonly Source[], packs: readonly Packs[], mixing: Mixing): Promise<Plan> {
	const room = sources.map((s) => new Fraction(s.content).sub(s.loss));
	const step = packs.map((p) => new Fraction(1).div(new Fraction(10).pow(p.decimals)!));
	const size = packs.map((p, i) => new Fraction(p.each).mul(step[i]));
	const count = packs.map((p, i) => new Fraction(p.qty).div(step[i]));
	const qty = (i: number, n: Fraction | number) => exact(step[i].mul(n));
	const wanted = packs.reduce((s, p) => s.add(new Fraction(p.qty).mul(p.each)), new Fraction(0));
	const given = room.reduce((s, r) => s.add(r.s < 0n ? 0 : r), new Fraction(0));
	const lacking = wanted.compare(given) > 0 ? exact(wanted.sub(given)) : '0';
	const whole =
		mixing === 'all' && sources.length > 1
			? sources.map(() => packs.map(() => 0))
			: await mostWhole(room, size, count.map(Number));
	const left = room.map((r, s) => whole[s].reduce((rest, n, i) => rest.sub(size[i].mul(n)), r));
	const open = packs.map((_, i) => Number(count[i]) - whole.reduce((sum, row) => sum + row[i], 0));
	const over = packs.flatMap((p, i) => (open[i] > 0 ? [{ key: p.key, qty: qty(i, open[i]) }] : []));
	let mixed: Plan['mixed'] = null;
	if (over.length && mixing !== 'apart' && lacking === '0') {
		// What the packs want is taken from what the lots have left, in their order.
		let need = open.reduce((s, n, i) => s.add(size[i].mul(n)), new Fraction(0));
		const from: { source: string; content: Qty }[] = [];
		sources.forEach((s, n) => {
			const take = left[n].compare(need) < 0 ? left[n] : need;
			if (take.s <= 0n || take.n === 0n) return;
			from.push({ source: s.key, content: exact(take) });
			left[n] = left[n].sub(take);
			need = need.sub(take);
		});
		mixed = { packs: over, from };
	}
	return {
		filled: sources.flatMap((s, n) =>
			packs.flatMap((p, i) => (whole[n][i] ? [{ source: s.key, packs: p.key, qty: qty(i, whole[n][i]) }] : []))
		),
		mixed,
		unfilled: mixed ? [] : over,
		balance: sources.map((s, n) => ({
			source: s.key,
			content: s.content,
			out: exact(room[n].sub(left[n])),
			loss: s.loss,
			left: exact(left[n])
		})),
		lacking
	};
}
