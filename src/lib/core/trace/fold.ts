import { group } from '../group/group.ts';
import { total } from '../quantity/quantity.ts';
import { inRanges, natural } from '../ranges/ranges.ts';
import type { TraceMark, TreeNode, WhereRow } from './view.ts';

/** A line of "where it is now": one lot or run, or serials that share everything else, as a range. */
export interface FoldedRow extends WhereRow {
	key: string;
	first: TraceMark | null;
	last: TraceMark | null;
	/** the single serials of a range */
	inner: WhereRow[];
}
/** What is here first, then what is gone. */
const ORDER = ['on hand', 'in process', 'shipped', 'issued', 'unmarked', 'scrapped', 'adjusted', 'sent back'];
/** Puts in that order. */
export const byState = (a: { state: string }, b: { state: string }): number =>
	ORDER.indexOf(a.state) - ORDER.indexOf(b.state);

/** Folds serials of one item, state, place and paper into ranges; their contents add up as shown. */
export function foldWhere(rows: readonly WhereRow[], marks: ReadonlyMap<string, TraceMark>): FoldedRow[] {
	const markOf = (w: WhereRow) => (w.mark ? marks.get(w.mark)! : null);
	const out: FoldedRow[] = [];
	const serials: WhereRow[] = [];
	rows.forEach((w, i) => {
		const mark = markOf(w);
		if (mark?.kind === 'serial') serials.push(w);
		else out.push({ ...w, key: `${i}`, first: mark, last: mark, inner: [] });
	});
	for (const [key, list] of group(serials, (w) =>
		[markOf(w)!.item, w.state, w.at, w.document, w.date, w.known].join('\n')
	)) {
		for (const inner of inRanges(list, (w) => markOf(w)!.number)) {
			out.push({
				...inner[0],
				key: `${key}\n${inner[0].mark}`,
				first: markOf(inner[0]),
				last: markOf(inner[inner.length - 1]),
				inner,
				qty: String(inner.length),
				content: total(inner.map((w) => w.content)),
				part: inner.reduce((sum, w) => sum + w.part, 0)
			});
		}
	}
	return out.sort(
		(a, b) =>
			byState(a, b) ||
			(a.at ?? '').localeCompare(b.at ?? '') ||
			natural.compare(a.first?.number ?? '', b.first?.number ?? '')
	);
}

/** From how many children on serials of one item stand as ranges. */
const CROWD = 6;
/** Children of a node as they are listed: a crowd of serials of one item as ranges, everything else by itself. */
export function foldChildren(children: readonly TreeNode[], marks: ReadonlyMap<string, TraceMark>): TreeNode[][] {
	const key = (c: TreeNode) => {
		const m = marks.get(c.mark)!;
		return m.kind === 'serial' && children.length > CROWD ? `${m.item} ${c.level}` : `${c.mark} ${c.step?.run ?? ''}`;
	};
	return [...group([...children], key).values()].flatMap((nodes) => {
		if (nodes.length === 1) return [nodes];
		return inRanges(nodes, (n) => marks.get(n.mark)!.number);
	});
}
