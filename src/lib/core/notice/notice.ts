import { gs1CheckDigit, gs1Valid, gtin14 } from '../codes/check.ts';
import { parseLink, type Element } from '../codes/gs1.ts';
import { parseDay } from '../dates/dates.ts';
import { next } from '../ranges/ranges.ts';

/** One announced number or quantity, before it is matched to an order's lines. */
export interface Announced {
	/** where it stands in the file, for messages */
	at: string;
	pallet?: string;
	/** GTIN of 14 digits, or the item's code */
	item: string;
	lot?: string;
	serial?: string;
	count: number;
	/** as written; empty for serials */
	qty: string;
	expiresOn?: string;
	madeOn?: string;
}
/** What is wrong with a notice, and in which row of it. */
export interface NoticeFault {
	at: string;
	message: string;
}
type Read = { rows: Announced[]; faults: NoticeFault[] };

const COLUMNS: Record<string, string[]> = {
	item: ['item', 'itemcode', 'article', 'gtin', 'product', 'material'],
	pallet: ['pallet', 'sscc', 'handlingunit'],
	lot: ['lot', 'lotno', 'lotnumber', 'batch', 'batchno'],
	serial: ['serial', 'serialno', 'serialnumber', 'sn'],
	qty: ['qty', 'quantity', 'pieces', 'amount'],
	expiresOn: ['expires', 'expireson', 'expiry', 'expirydate', 'useby', 'bestbefore'],
	madeOn: ['madeon', 'made', 'productiondate']
};

/** Reads a notice as a table with headings: item or GTIN, and pallet, lot, serial, quantity, dates as they are known. */
export function readTable(cells: string[][]): Read {
	const faults: NoticeFault[] = [];
	const columns = (cells[0] ?? []).map((h) =>
		Object.keys(COLUMNS).find((f) => COLUMNS[f].includes(h.toLowerCase().replace(/[^a-z]/g, '')))
	);
	if (!columns.includes('item'))
		return {
			rows: [],
			faults: [
				{
					at: 'row 1',
					message:
						'has no heading “item” or “gtin”. The first row names the columns: item, pallet, lot, serial, quantity, expiry.'
				}
			]
		};
	const rows = cells.slice(1).map((row, i): Announced => {
		const at = `row ${i + 2}`;
		const of = (field: string) => row[columns.indexOf(field)]?.trim() || undefined;
		const item = of('item') ?? '';
		if (!item) faults.push({ at, message: 'names no item.' });
		const pallet = of('pallet');
		if (pallet && !(/^\d{18}$/.test(pallet) && gs1Valid(pallet)))
			faults.push({ at, message: `${pallet} is not an SSCC: it has 18 digits, the last one is its check digit.` });
		const out: Announced = {
			at,
			item: gtin14(item) ?? item,
			pallet,
			lot: of('lot'),
			serial: of('serial'),
			count: 1,
			qty: of('serial') ? '' : (of('qty') ?? '')
		};
		for (const field of ['expiresOn', 'madeOn'] as const) {
			const typed = of(field);
			const day = typed ? parseDay(typed) : null;
			if (day && 'problem' in day) faults.push({ at, message: day.problem });
			else if (day) out[field] = day.day;
		}
		return out;
	});
	return { rows: fold(rows), faults };
}

/** Consecutive serials that share everything else stand as one. */
function fold(rows: Announced[]): Announced[] {
	const out: Announced[] = [];
	for (const r of rows) {
		const open = out.at(-1);
		const same = open && (['item', 'pallet', 'lot', 'expiresOn', 'madeOn'] as const).every((f) => open[f] === r[f]);
		if (same && r.serial && open.serial && next(open.serial, open.count) === r.serial) open.count += r.count;
		else out.push({ ...r });
	}
	return out;
}

// EPCIS 2.0 -----------------------------------------------------------------------------------

type Json = Record<string, unknown>;
const list = (x: unknown): Json[] => (Array.isArray(x) ? (x as Json[]) : []);

/** What an EPC names: a Digital Link, or a URN (GS1 EPC Tag Data Standard, section 6: sgtin, lgtin, sscc; class:lgtin and idpat). */
export function readEpc(epc: string): { gtin?: string; lot?: string; serial?: string; sscc?: string } | null {
	if (/^https?:/i.test(epc)) {
		const read = parseLink(epc);
		if ('problem' in read) return null;
		const of = (ai: string) => read.elements.find((e: Element) => e.ai === ai)?.value;
		return { gtin: of('01'), lot: of('10'), serial: of('21'), sscc: of('00') };
	}
	const urn = /^urn:epc:(?:id:(sgtin|sscc)|class:(lgtin)|idpat:(sgtin)):(\d+)\.(\d+)(?:\.(.+))?$/.exec(epc);
	if (!urn) return null;
	const kind = urn[1] ?? urn[2] ?? 'class';
	const [company, reference, rest] = [urn[4], urn[5], urn[6]];
	const digits = reference[0] + company + reference.slice(1);
	if (kind === 'sscc') return digits.length === 17 ? { sscc: digits + gs1CheckDigit(digits) } : null;
	if (digits.length !== 13) return null;
	const gtin = digits + gs1CheckDigit(digits);
	let tail: string;
	try {
		tail = rest === undefined ? '' : decodeURIComponent(rest);
	} catch {
		return null;
	}
	return kind === 'sgtin' ? { gtin, serial: tail } : kind === 'lgtin' ? { gtin, lot: tail } : { gtin };
}

/**
 * Reads a notice as an EPCIS 2.0 JSON document: what object and aggregation events name, with its pallet, lot and dates
 * (ilmd). An object that is named by several events counts once, with all that they say of it.
 */
export function readEpcis(document: unknown): Read {
	const body = (document as { epcisBody?: { eventList?: unknown } } | null)?.epcisBody;
	const events = list(body?.eventList);
	if (!events.length)
		return {
			rows: [],
			faults: [
				{ at: 'the document', message: 'holds no EPCIS events. Ask the supplier for an EPCIS 2.0 JSON document.' }
			]
		};
	const faults: NoticeFault[] = [];
	const seen = new Map<string, Announced>();
	events.forEach((event, i) => {
		const at = `event ${i + 1}`;
		const ilmd = (event.ilmd ?? {}) as Json;
		const said = (name: string) => {
			const found = Object.entries(ilmd).find(([k]) => k.replace(/^.*[:/#]/, '') === name)?.[1];
			return typeof found === 'string' ? found.slice(0, 60) : undefined;
		};
		const facts = {
			lot: said('lotNumber'),
			expiresOn: said('itemExpirationDate')?.slice(0, 10),
			madeOn: said('productionDate')?.slice(0, 10)
		};
		for (const [field, day] of [
			['expires', facts.expiresOn],
			['made', facts.madeOn]
		] as const)
			if (day && 'problem' in parseDay(day)) faults.push({ at, message: `gives “${day}” as a date (${field}).` });
		const parent = typeof event.parentID === 'string' ? readEpc(event.parentID) : null;
		const take = (epc: unknown, qty: string) => {
			const read = typeof epc === 'string' ? readEpc(epc) : null;
			if (read?.sscc && !read.gtin) return; // the pallet itself
			if (!read?.gtin)
				return void faults.push({ at, message: `names “${String(epc).slice(0, 60)}”, which is no item.` });
			const key = `${read.gtin} ${read.lot ?? ''} ${read.serial ?? ''}`;
			const row = seen.get(key) ?? {
				at,
				item: read.gtin,
				lot: read.lot,
				serial: read.serial || undefined,
				count: 1,
				qty
			};
			row.pallet ??= parent?.sscc;
			for (const f of ['lot', 'expiresOn', 'madeOn'] as const) row[f] ??= facts[f];
			seen.set(key, row);
		};
		for (const epc of [
			...(Array.isArray(event.epcList) ? event.epcList : []),
			...(Array.isArray(event.childEPCs) ? event.childEPCs : [])
		])
			take(epc, '');
		for (const q of [...list(event.quantityList), ...list(event.childQuantityList)])
			take(q.epcClass, q.quantity === undefined ? '' : String(q.quantity));
	});
	return { rows: fold([...seen.values()]), faults };
}
