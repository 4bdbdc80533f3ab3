import { PARTS, type Part } from './shown.ts';

/** What of a trace its page shows: as its address says it. */
export interface Seen {
	part: Part;
	find: string;
	from: number;
	/** how many bars a column of the picture shows, where that is more than at first */
	bars: [col: number, most: number][];
}

/** Reads from an address what its page shows; what cannot be read is as at first. */
export function seenIn(params: URLSearchParams, direction: 'forward' | 'back'): Seen {
	const tab = PARTS.find((p) => p === params.get('tab'));
	const row = Number(params.get('row') ?? 0);
	return {
		part: tab ?? (direction === 'forward' ? 'where' : 'numbers'),
		find: (params.get('find') ?? '').slice(0, 100),
		from: Number.isInteger(row) && row >= 0 && row < 10_000_000 ? row : 0,
		bars: [...(params.get('bars') ?? '').matchAll(/(?:^|-)(\d{1,2})[.](\d{1,3})(?=-|$)/g)]
			.slice(0, 50)
			.flatMap(([, col, most]): [number, number][] => (Number(most) ? [[Number(col), Number(most)]] : []))
	};
}
/** How an address says which columns show more bars: "3.27-4.47". */
export const barsText = (bars: Seen['bars']): string => bars.map(([col, most]) => `${col}.${most}`).join('-');
