import Papa from 'papaparse';
import { treeOf, type TraceView, type TreeNode } from '../../core/trace/view.ts';

/** The trace as CSV (RFC 4180), one part a file: where it is now, or the numbers by generation. */
export function traceCsv(view: TraceView, part: 'where' | 'numbers'): string {
	const marks = new Map(view.marks.map((m) => [m.id, m]));
	const name = (id: string | null) => (id ? marks.get(id)! : null);
	let rows: Record<string, string | number>[];
	if (part === 'where')
		rows = view.where.map((w) => ({
			number: name(w.mark)?.number ?? w.run ?? '',
			item: name(w.mark)?.item ?? '',
			lot: name(w.mark)?.kind === 'serial' ? (name(w.mark)?.lot ?? '') : '',
			state: w.state,
			where: w.at ?? '',
			document: w.document ?? '',
			date: w.date ?? '',
			quantity: w.qty ?? '',
			unit: name(w.mark)?.unit ?? '',
			content: w.content ?? '',
			content_unit: view.unit
		}));
	else {
		rows = [];
		const walk = (n: TreeNode) => {
			const m = marks.get(n.mark)!;
			rows.push({
				level: n.level,
				number: m.number,
				item: m.item,
				item_name: m.itemName,
				lot: m.kind === 'serial' ? (m.lot ?? '') : '',
				quantity: n.qty ?? '',
				unit: m.unit,
				content: n.content ?? '',
				run: n.step?.run ?? '',
				document: n.step?.document ?? '',
				at: n.step?.at ?? '',
				path: n.exact ? 'exact' : 'pooled',
				repeated: n.repeated ? 'yes' : ''
			});
			n.children.forEach(walk);
		};
		walk(treeOf(view));
		if (view.direction === 'back')
			for (const s of view.suppliers) {
				const m = marks.get(s.mark)!;
				rows.push({
					level: 'supplier',
					number: m.number,
					item: m.item,
					item_name: s.partner,
					lot: '',
					quantity: s.qty ?? '',
					unit: m.unit,
					content: '',
					run: '',
					document: s.document ?? '',
					at: s.at,
					path: '',
					repeated: ''
				});
			}
	}
	// A number that begins like a formula is quoted, so that no spreadsheet runs it.
	return '\uFEFF' + Papa.unparse(rows, { escapeFormulae: true });
}
