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
	/** who it is with; the kinds of partners that fit */
	partner: { label: string; kinds: readonly string[] } | null;
	/** a job that it is for */
	job: boolean;
	/** where it arrives or leaves: which places fit, and what the field is called */
	place: { label: string; needed: boolean; sites: boolean };
	/** where it goes to, of one that leaves a place for another: what the field is called */
	to: { label: string } | null;
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
	/** what stays to be done after its goods have come or gone: it is listed until all of it is ticked off; null where nothing ever does */
	todo: readonly string[] | null;
	/** the step of the marking rule that a line of each role is */
	steps: Partial<Record<LineRole, Step>>;
	/** numbers of its lines come from outside, with the supplier's own */
	fromSupplier: boolean;
	/** numbers for it are drawn when it is released, where the item wants that */
	drawn: boolean;
	/** what a scan in its sheet is: a number that comes or is made, or stock that is taken */
	scans: 'numbers' | 'stock';
	/** the event that it leaves by, of which a packing list is printed; null where nothing leaves with papers */
	packs: 'shipment' | 'transfer' | 'supplier return' | null;
	/** it goes to somebody by a way of delivery, which may ask carriage */
	sent: boolean;
	/** stock for it is looked for at its site only */
	siteOnly: boolean;
	/** its lists: the title, what waits on Today, the link that makes one, and the button of that page */
	words: { list: string; today: string; add: string; make: string };
}

/** Its lines are written down beforehand, and with the goods everything is done. */
const CLOSED = { lines: 'written', todo: null } as const;

/** Every kind of document. A new one is a row here, a builder in its area and a screen. */
export const DOCUMENT_KINDS = {
	purchase: {
		area: 'inbound',
		path: '/inbound',
		prefix: 'PO',
		name: 'delivery',
		right: 'book inbound',
		create: 'book inbound',
		partner: { label: 'Supplier', kinds: ['supplier', 'both'] },
		job: false,
		place: { label: 'Arrives at', needed: true, sites: false },
		to: null,
		reasons: null,
		due: 'Expected',
		line: { role: 'goods', several: true, inputs: null },
		...CLOSED,
		steps: { goods: 'receipt' },
		fromSupplier: true,
		drawn: true,
		scans: 'numbers',
		packs: null,
		sent: false,
		siteOnly: false,
		words: {
			list: 'Inbound',
			today: 'To receive',
			add: 'Enter a delivery',
			make: 'Start receiving'
		}
	},
	production: {
		area: 'production',
		path: '/production',
		prefix: 'MO',
		name: 'production order',
		right: 'book production',
		create: 'write orders',
		partner: null,
		job: false,
		place: { label: 'Output to', needed: true, sites: false },
		to: null,
		reasons: null,
		due: 'Due',
		line: { role: 'output', several: false, inputs: 'parts list' },
		...CLOSED,
		steps: { output: 'production output', byproduct: 'production output', component: 'production use' },
		fromSupplier: false,
		drawn: true,
		scans: 'numbers',
		packs: null,
		sent: false,
		siteOnly: false,
		words: { list: 'Production', today: 'To make', add: 'New production order', make: 'Add order' }
	},
	sale: {
		area: 'outbound',
		path: '/outbound',
		prefix: 'SO',
		name: 'order',
		right: 'book outbound',
		create: 'write orders',
		partner: { label: 'Customer', kinds: ['customer', 'both'] },
		job: false,
		place: { label: 'From site', needed: false, sites: true },
		to: null,
		reasons: null,
		due: 'Ship by',
		line: { role: 'goods', several: true, inputs: null },
		...CLOSED,
		steps: { goods: 'shipment' },
		fromSupplier: false,
		drawn: false,
		scans: 'stock',
		packs: 'shipment',
		sent: true,
		siteOnly: true,
		words: { list: 'Outbound', today: 'To ship', add: 'New order to ship', make: 'Add order' }
	},
	issue: {
		area: 'stock',
		path: '/stock/issues',
		prefix: 'JI',
		name: 'issue to a job',
		right: 'issue to jobs',
		create: 'issue to jobs',
		partner: null,
		job: true,
		place: { label: 'From site', needed: false, sites: true },
		to: null,
		reasons: null,
		due: 'Needed by',
		line: { role: 'goods', several: true, inputs: null },
		...CLOSED,
		steps: { goods: 'job use' },
		fromSupplier: false,
		drawn: false,
		scans: 'stock',
		packs: null,
		sent: false,
		siteOnly: true,
		words: { list: 'Issues to jobs', today: 'To issue to jobs', add: 'New issue to a job', make: 'Add issue' }
	},
	repack: {
		area: 'stock',
		path: '/stock/repacking',
		prefix: 'RP',
		name: 'repacking',
		right: 'book production',
		create: 'book production',
		partner: null,
		job: false,
		place: { label: 'Packs go to', needed: true, sites: false },
		to: null,
		reasons: null,
		due: 'Due',
		line: { role: 'output', several: true, inputs: 'content' },
		...CLOSED,
		steps: { output: 'repack', component: 'repack' },
		fromSupplier: false,
		drawn: false,
		scans: 'stock',
		packs: null,
		sent: false,
		siteOnly: true,
		words: { list: 'Repacking', today: 'To repack', add: 'Repack goods', make: 'Start repacking' }
	},
	transfer: {
		area: 'stock',
		path: '/stock/transfers',
		prefix: 'TR',
		name: 'transfer',
		right: 'move stock',
		create: 'move stock',
		partner: null,
		job: false,
		place: { label: 'From site', needed: false, sites: true },
		to: { label: 'To' },
		reasons: null,
		due: 'Needed by',
		line: { role: 'goods', several: true, inputs: null },
		...CLOSED,
		steps: { goods: 'transfer' },
		fromSupplier: false,
		drawn: false,
		scans: 'stock',
		packs: 'transfer',
		sent: false,
		siteOnly: true,
		words: { list: 'Transfers', today: 'To transfer', add: 'New transfer', make: 'Add transfer' }
	},
	return: {
		area: 'inbound',
		path: '/inbound/returns',
		prefix: 'RT',
		name: 'return',
		right: 'book inbound',
		create: 'book inbound',
		partner: { label: 'Customer', kinds: ['customer', 'both'] },
		job: false,
		place: { label: 'Arrives at', needed: true, sites: false },
		to: null,
		reasons: ['take back'],
		due: 'Expected',
		line: { role: 'goods', several: true, inputs: null },
		lines: 'scanned',
		todo: ['Credit it, or send another'],
		steps: { goods: 'customer return' },
		fromSupplier: false,
		drawn: false,
		scans: 'stock',
		packs: null,
		sent: false,
		siteOnly: false,
		words: {
			list: 'Returns from customers',
			today: 'To take back',
			add: 'Take back from a customer',
			make: 'Go on to what came back'
		}
	},
	'supplier-return': {
		area: 'outbound',
		path: '/outbound/returns',
		prefix: 'SR',
		name: 'return to a supplier',
		right: 'book outbound',
		create: 'book outbound',
		partner: { label: 'Supplier', kinds: ['supplier', 'both'] },
		job: false,
		place: { label: 'From site', needed: false, sites: true },
		to: null,
		reasons: ['send back'],
		due: 'Send by',
		line: { role: 'goods', several: true, inputs: null },
		lines: 'scanned',
		todo: ['Credit or replacement received'],
		steps: { goods: 'supplier return' },
		fromSupplier: false,
		drawn: false,
		scans: 'stock',
		packs: 'supplier return',
		sent: true,
		siteOnly: true,
		words: {
			list: 'Returns to suppliers',
			today: 'To send back',
			add: 'Send back to a supplier',
			make: 'Go on to its numbers'
		}
	},
	count: {
		area: 'stock',
		path: '/stock/counts',
		prefix: 'CT',
		name: 'count',
		right: 'adjust stock',
		create: 'count stock',
		partner: null,
		job: false,
		place: { label: 'Where', needed: true, sites: false },
		to: null,
		reasons: null,
		due: 'By',
		line: { role: 'goods', several: true, inputs: null },
		lines: 'none',
		todo: null,
		steps: { goods: 'count' },
		fromSupplier: false,
		drawn: false,
		scans: 'stock',
		packs: null,
		sent: false,
		siteOnly: false,
		words: { list: 'Counts', today: 'To count', add: 'New count', make: 'Make the count' }
	},
	'adjust-in': {
		area: 'stock',
		path: '/stock/adjust-in',
		prefix: 'AI',
		name: 'adjustment in',
		right: 'adjust stock',
		create: 'adjust stock',
		partner: null,
		job: false,
		place: { label: 'Found at', needed: true, sites: false },
		to: null,
		reasons: ['put in'],
		due: 'By',
		line: { role: 'goods', several: true, inputs: null },
		...CLOSED,
		steps: { goods: 'adjustment in' },
		fromSupplier: false,
		drawn: false,
		scans: 'numbers',
		packs: null,
		sent: false,
		siteOnly: false,
		words: { list: 'Adjustments in', today: 'To put in', add: 'Put in what was found', make: 'Go on to its numbers' }
	},
	'adjust-out': {
		area: 'stock',
		path: '/stock/adjust-out',
		prefix: 'AO',
		name: 'adjustment out',
		right: 'adjust stock',
		create: 'adjust stock',
		partner: null,
		job: false,
		place: { label: 'From site', needed: false, sites: true },
		to: null,
		reasons: ['take out', 'scrap'],
		due: 'By',
		line: { role: 'goods', several: true, inputs: null },
		...CLOSED,
		steps: { goods: 'adjustment out' },
		fromSupplier: false,
		drawn: false,
		scans: 'stock',
		packs: null,
		sent: false,
		siteOnly: true,
		words: {
			list: 'Adjustments out',
			today: 'To take out',
			add: 'Take out what is missing or scrapped',
			make: 'Go on to its numbers'
		}
	}
} as const satisfies Record<string, DocumentKind>;
/** A kind of document, by its name. */
export type Kind = keyof typeof DOCUMENT_KINDS;
/** The names of all kinds of document, for what is parsed. */
export const DOCUMENT_NAMES = Object.keys(DOCUMENT_KINDS) as [Kind, ...Kind[]];

/** A kind's row. */
export const documentKind = (kind: Kind): DocumentKind => DOCUMENT_KINDS[kind];

/** Where a document's page is. */
export const documentPath = (kind: Kind, code: string): string =>
	`${DOCUMENT_KINDS[kind].path}/${encodeURIComponent(code)}`;

/** The step that each kind's line of a role is, for a statement that asks it of many documents at once. */
export const lineSteps = (): { kind: Kind; role: LineRole; step: Step }[] =>
	DOCUMENT_NAMES.flatMap((kind) =>
		Object.entries(documentKind(kind).steps).map(([role, step]) => ({ kind, role: role as LineRole, step }))
	);
