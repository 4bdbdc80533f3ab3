import { typedNumber } from '../quantity/sign.ts';
import { next, parseFill } from './ranges.ts';

/** One row that a pasted column gives: a number, or a run of them. */
export interface ColumnRow {
	lot?: string;
	serial?: string;
	count?: number;
	qty?: string;
	expiresOn?: string;
}

/**
 * Reads a pasted column, or columns from a spreadsheet. Consecutive serials become one row; a number that stands
 * twice stays twice, so that the sheet can say so. Blank lines are left out and counted.
 * @param line what its item carries: serials (optionally lot first), or lot, quantity, expiry; and how many decimals its
 * quantities have
 */
export function readColumn(
	text: string,
	{ tracking, decimals }: { tracking: string; decimals: number }
): { rows: ColumnRow[]; numbers: number; blanks: number } {
	const lines = text.replace(/\r\n?/g, '\n').replace(/\n$/, '').split('\n');
	const rows: ColumnRow[] = [];
	let [numbers, blanks] = [0, 0];
	for (const line of lines) {
		const cells = line.split('\t').map((c) => c.trim());
		if (cells.every((c) => !c)) {
			blanks++;
			continue;
		}
		if (!tracking.includes('serial')) {
			const [lot, qty, expiresOn] = tracking === 'none' ? ['', cells[0], ''] : cells;
			rows.push({
				...(lot ? { lot } : {}),
				...(qty ? { qty: typedNumber(qty, decimals) } : {}),
				...(expiresOn ? { expiresOn } : {})
			});
			numbers++;
			continue;
		}
		const [lot, typed] = cells.length > 1 ? [cells[0], cells[1]] : ['', cells[0]];
		const filled = parseFill(typed);
		const runs = 'problem' in filled ? [{ first: typed.slice(0, 200), count: 1 }] : filled.runs;
		for (const { first, count } of runs) {
			numbers += count;
			const open = rows.at(-1);
			if (open?.serial && (open.lot ?? '') === lot && next(open.serial, open.count) === first) open.count! += count;
			else rows.push({ ...(lot ? { lot } : {}), serial: first, count });
		}
	}
	return { rows, numbers, blanks };
}
