import type { Verb } from '../people/can.ts';
import type { Step } from '../ledger/steps.ts';

/** What a line of a document is: goods that come or go, what is made, what comes out beside it, what goes into it. */
export type LineRole = 'goods' | 'output' | 'byproduct' | 'component';

/** What a reason of the firm's list is for. */
export const REASON_ACTS = ['put in', 'take out', 'scrap', 'take back', 'send back', 'count'] as const;
/** One of them. */
export type ReasonAct = (typeof REASON_ACTS)[number];

/** What may become of something that came back: good for stock, waiting for a decision, good for nothing. */
export const GOES = ['stock', 'hold', 'scrap'] as const;
/** One of them. */
export type Goes = (typeof GOES)[number];

/** Everything that tells one kind of document from another. Shared code reads the row; it never asks which kind it has. */
export interface DocumentKind {
	/** the area whose builder makes its sheet, and the address of its pages */
	area: 'inbound' | 'production' | 'outbound' | 'stock';
	path: string;
	/** of the numbers that Earmark gives: PO-0001 */
	prefix: string;
	/** in a sentence: "There is no delivery PO-7" */
	name: string;
	/** the right to book it, and the right to make one */
	right: Verb;
	create: Verb;
	/** who it is with; the kinds of partners that fit; and whether it may be with nobody who is named */
	partner: { label: string; kinds: readonly string[]; optional?: true } | null;
	/** a job that it is for */
	job: boolean;
	/** where it arrives or leaves: which places fit, and what the field is called */
	place: { label: string; needed: boolean; sites: boolean };
	/** where it goes to, of one that leaves a place for another: what the field is called */
	to: { label: string } | null;
	/** what one of it costs is asked as it is entered */
	costs: boolean;
	/** the acts that a reason of the firm's list is asked for; null where none is */
	reasons: readonly ReasonAct[] | null;
	due: string;
	/**
	 * the role of the lines that are typed; more than one line; and what goes into them: what the parts list says, an item
	 * that is named (of the same content), or nothing
	 */
	line: { role: LineRole; several: boolean; inputs: 'parts list' | 'content' | null };
	/**
	 * its lines are written down beforehand; or a scanned number of an item that has none adds one, so that it may begin without
	 * any; or it has none
	 */
	lines: 'written' | 'scanned' | 'none';
	/** the event that one may be begun from, with what it moved, and what its link says */
	after: { event: 'shipment' | 'receipt'; act: string } | null;
	/** what stays to be done after its goods have come or gone: it is listed until all of it is ticked off; null where nothing ever does */
	todo: readonly string[] | null;
	/** the step of the marking rule that a line of each role is */
	steps: Partial<Record<LineRole, Step>>;
	/** numbers of its lines come from outside, with the supplier's own */
	fromSupplier: boolean;
	/** numbers for it are drawn when it is released, where the item wants that */
	drawn: boolean;
	/** it gives numbers to what lies there without: whatever its item carries is asked, and no date or fact */
	gives: boolean;
	/** what a scan in its sheet is: a number that comes or is made, or stock that is taken */
	scans: 'numbers' | 'stock';
	/** a row of it holds the number that it names: other orders are not offered it */
	holds: boolean;
	/** the event that it leaves by, of which a packing list is printed; null where nothing leaves with papers */
	packs: 'shipment' | 'transfer' | 'supplier return' | null;
	/** it goes to somebody by a way of delivery, which may ask carriage */
	sent: boolean;
	/** it sells: its terms are signed and what is handed over is signed for; its lines have a warranty and a price */
	sells: boolean;
	/** what of it is held against the invoices that are noted; null where nobody writes any */
	invoiced: 'shipped' | 'received' | null;
	/** stock for it is looked for at its site only */
	siteOnly: boolean;
	/** its lists: the title, what waits on Today, the link that makes one, and the button of that page */
	words: { list: string; today: string; add: string; make: string };
}

/** What a kind of document is where its row says nothing else. */
const PLAIN = {
	partner: null,
	job: false,
	to: null,
	costs: false,
	reasons: null,
	lines: 'written',
	after: null,
	todo: null,
	fromSupplier: false,
	drawn: false,
	gives: false,
	holds: false,
	packs: null,
	sent: false,
	sells: false,
	invoiced: null,
	siteOnly: false
} as const;

/** Every kind of document: what differs from the plain one. A new one is a row here, a builder in its area and a screen. */
export const DOCUMENT_KINDS = {
	purchase: {
		...PLAIN,
		area: 'inbound',
		path: '/inbound',
		prefix: 'PO',
		name: 'delivery',
		right: 'book inbound',
		create: 'book inbound',
		partner: { label: 'Supplier', kinds: ['supplier', 'both'] },
		place: { label: 'Arrives at', needed: true, sites: false },
		due: 'Expected',
		line: { role: 'goods', several: true, inputs: null },
		steps: { goods: 'receipt' },
		fromSupplier: true,
		drawn: true,
		scans: 'numbers',
		invoiced: 'received',
		words: {
			list: 'Inbound',
			today: 'To receive',
			add: 'Enter a delivery',
			make: 'Start receiving'
		}
	},
	production: {
		...PLAIN,
		area: 'production',
		path: '/production',
		prefix: 'MO',
		name: 'production order',
		right: 'book production',
		create: 'write orders',
		place: { label: 'Output to', needed: true, sites: false },
		due: 'Due',
		line: { role: 'output', several: false, inputs: 'parts list' },
		steps: { output: 'production output', byproduct: 'production output', component: 'production use' },
		drawn: true,
		scans: 'numbers',
		holds: true,
		words: { list: 'Production', today: 'To make', add: 'New production order', make: 'Add order' }
	},
	sale: {
		...PLAIN,
		area: 'outbound',
		path: '/outbound',
		prefix: 'SO',
		name: 'order',
		right: 'book outbound',
		create: 'write orders',
		partner: { label: 'Customer', kinds: ['customer', 'both'] },
		place: { label: 'From site', needed: false, sites: true },
		due: 'Ship by',
		line: { role: 'goods', several: true, inputs: null },
		steps: { goods: 'shipment' },
		scans: 'stock',
		holds: true,
		packs: 'shipment',
		sent: true,
		sells: true,
		invoiced: 'shipped',
		siteOnly: true,
		words: { list: 'Outbound', today: 'To ship', add: 'New order to ship', make: 'Add order' }
	},
	counter: {
		...PLAIN,
		area: 'outbound',
		path: '/outbound/counter',
		prefix: 'CS',
		name: 'sale over the counter',
		right: 'book outbound',
		create: 'book outbound',
		partner: { label: 'Customer', kinds: ['customer', 'both'], optional: true },
		place: { label: 'Counter at', needed: true, sites: true },
		due: 'Sold on',
		line: { role: 'goods', several: true, inputs: null },
		lines: 'scanned',
		steps: { goods: 'shipment' },
		scans: 'stock',
		holds: true,
		packs: 'shipment',
		sells: true,
		invoiced: 'shipped',
		siteOnly: true,
		words: {
			list: 'Over the counter',
			today: 'At the counter',
			add: 'Sell over the counter',
			make: 'Next: enter numbers'
		}
	},
	issue: {
		...PLAIN,
		area: 'stock',
		path: '/stock/issues',
		prefix: 'JI',
		name: 'issue to a job',
		right: 'issue to jobs',
		create: 'issue to jobs',
		job: true,
		place: { label: 'From site', needed: false, sites: true },
		due: 'Needed by',
		line: { role: 'goods', several: true, inputs: null },
		steps: { goods: 'job use' },
		scans: 'stock',
		holds: true,
		siteOnly: true,
		words: { list: 'Issues to jobs', today: 'To issue to jobs', add: 'New issue to a job', make: 'Add issue' }
	},
	repack: {
		...PLAIN,
		area: 'stock',
		path: '/stock/repacking',
		prefix: 'RP',
		name: 'repacking',
		right: 'book production',
		create: 'book production',
		place: { label: 'Packs go to', needed: true, sites: false },
		due: 'Due',
		line: { role: 'output', several: true, inputs: 'content' },
		steps: { output: 'repack', component: 'repack' },
		scans: 'stock',
		holds: true,
		siteOnly: true,
		words: { list: 'Repacking', today: 'To repack', add: 'Repack goods', make: 'Start repacking' }
	},
	transfer: {
		...PLAIN,
		area: 'stock',
		path: '/stock/transfers',
		prefix: 'TR',
		name: 'transfer',
		right: 'move stock',
		create: 'move stock',
		place: { label: 'From site', needed: false, sites: true },
		to: { label: 'To' },
		due: 'Needed by',
		line: { role: 'goods', several: true, inputs: null },
		steps: { goods: 'transfer' },
		scans: 'stock',
		holds: true,
		packs: 'transfer',
		siteOnly: true,
		words: { list: 'Transfers', today: 'To transfer', add: 'New transfer', make: 'Add transfer' }
	},
	return: {
		...PLAIN,
		area: 'inbound',
		path: '/inbound/returns',
		prefix: 'RT',
		name: 'return',
		right: 'book inbound',
		create: 'book inbound',
		partner: { label: 'Customer', kinds: ['customer', 'both'] },
		place: { label: 'Arrives at', needed: true, sites: false },
		reasons: ['take back'],
		due: 'Expected',
		line: { role: 'goods', several: true, inputs: null },
		lines: 'scanned',
		after: { event: 'shipment', act: 'Take back…' },
		todo: ['Credit it, or send another'],
		steps: { goods: 'customer return' },
		scans: 'stock',
		words: {
			list: 'Returns from customers',
			today: 'To take back',
			add: 'Take back from a customer',
			make: 'Next: enter what came back'
		}
	},
	'supplier-return': {
		...PLAIN,
		area: 'outbound',
		path: '/outbound/returns',
		prefix: 'SR',
		name: 'return to a supplier',
		right: 'book outbound',
		create: 'book outbound',
		partner: { label: 'Supplier', kinds: ['supplier', 'both'] },
		place: { label: 'From site', needed: false, sites: true },
		reasons: ['send back'],
		due: 'Send by',
		line: { role: 'goods', several: true, inputs: null },
		lines: 'scanned',
		after: { event: 'receipt', act: 'Send back…' },
		todo: ['Credit or replacement received'],
		steps: { goods: 'supplier return' },
		scans: 'stock',
		packs: 'supplier return',
		sent: true,
		siteOnly: true,
		words: {
			list: 'Returns to suppliers',
			today: 'To send back',
			add: 'Send back to a supplier',
			make: 'Next: enter numbers'
		}
	},
	count: {
		...PLAIN,
		area: 'stock',
		path: '/stock/counts',
		prefix: 'CT',
		name: 'count',
		right: 'adjust stock',
		create: 'count stock',
		place: { label: 'Where', needed: true, sites: false },
		due: 'By',
		line: { role: 'goods', several: true, inputs: null },
		lines: 'none',
		steps: { goods: 'count' },
		scans: 'stock',
		words: { list: 'Counts', today: 'To count', add: 'New count', make: 'Make the count' }
	},
	numbering: {
		...PLAIN,
		area: 'stock',
		path: '/stock/numbering',
		prefix: 'NB',
		name: 'numbering',
		right: 'adjust stock',
		create: 'adjust stock',
		place: { label: 'Lies at', needed: true, sites: false },
		due: 'By',
		line: { role: 'goods', several: false, inputs: null },
		steps: { goods: 'adjustment in' },
		gives: true,
		scans: 'numbers',
		words: { list: 'Numbering', today: 'To number', add: 'Number what lies there', make: 'Next: enter numbers' }
	},
	'adjust-in': {
		...PLAIN,
		area: 'stock',
		path: '/stock/adjust-in',
		prefix: 'AI',
		name: 'adjustment in',
		right: 'adjust stock',
		create: 'adjust stock',
		place: { label: 'Found at', needed: true, sites: false },
		costs: true,
		reasons: ['put in'],
		due: 'By',
		line: { role: 'goods', several: true, inputs: null },
		steps: { goods: 'adjustment in' },
		scans: 'numbers',
		words: { list: 'Adjustments in', today: 'Adjustments in', add: 'New adjustment in', make: 'Next: enter numbers' }
	},
	'adjust-out': {
		...PLAIN,
		area: 'stock',
		path: '/stock/adjust-out',
		prefix: 'AO',
		name: 'adjustment out',
		right: 'adjust stock',
		create: 'adjust stock',
		place: { label: 'From site', needed: false, sites: true },
		reasons: ['take out', 'scrap'],
		due: 'By',
		line: { role: 'goods', several: true, inputs: null },
		steps: { goods: 'adjustment out' },
		scans: 'stock',
		siteOnly: true,
		words: {
			list: 'Adjustments out',
			today: 'Adjustments out',
			add: 'New adjustment out',
			make: 'Next: enter numbers'
		}
	}
} as const satisfies Record<string, DocumentKind>;
/** A kind of document, by its name. */
export type Kind = keyof typeof DOCUMENT_KINDS;
/** The names of all kinds of document, for what is parsed. */
export const DOCUMENT_NAMES = Object.keys(DOCUMENT_KINDS) as [Kind, ...Kind[]];

/** A kind's row. */
export const documentKind = (kind: Kind): DocumentKind => DOCUMENT_KINDS[kind];

/**
 * Does a row of such a line name what is there already, rather than bring a number? So it is of what a kind takes by its scans,
 * and of everything that goes into what is made.
 */
export const namesStock = (kind: Kind, role: LineRole): boolean =>
	role === 'component' || (role === 'goods' && DOCUMENT_KINDS[kind].scans === 'stock');

/** The kinds of documents whose rows hold the numbers that they name. */
export const HOLDING: readonly Kind[] = DOCUMENT_NAMES.filter((kind) => DOCUMENT_KINDS[kind].holds);

/** Is what goes on one fetched from stock: suggested, chosen, picked? */
export const isPicked = (kind: Kind): boolean => {
	const { holds, scans, lines } = DOCUMENT_KINDS[kind];
	return holds && scans === 'stock' && lines === 'written';
};

/** Where a document's page is. */
export const documentPath = (kind: Kind, code: string): string =>
	`${DOCUMENT_KINDS[kind].path}/${encodeURIComponent(code)}`;

/** The step that each kind's line of a role is, for a statement that asks it of many documents at once. */
export const lineSteps = (): { kind: Kind; role: LineRole; step: Step }[] =>
	DOCUMENT_NAMES.flatMap((kind) =>
		Object.entries(documentKind(kind).steps).map(([role, step]) => ({ kind, role: role as LineRole, step }))
	);
