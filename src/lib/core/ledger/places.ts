import type { Verb } from '../people/can.ts';

/** What a place outside the firm's shelves means for whatever goes to it or comes from it. */
export interface VirtualPlace {
	/** as screens call it */
	name: string;
	/** what stands there is in this state */
	state: 'sent back' | 'shipped' | 'in process' | 'scrapped' | 'adjusted' | 'issued';
	/** the right to book what comes from it, and what goes to it */
	from: Verb;
	to: Verb;
	/** a number that nobody knows yet may come from it */
	brings: boolean;
	/** what goes there must be released, and not expired */
	wantsReleased: boolean;
	/** what stands there is held apart by partner or by job; null where it is one */
	apart: 'partner' | 'job' | null;
	/** what somebody did who took it there: "shipped" */
	took: string;
	/** what happened to something that went there: "was shipped to Sken on 3 Mar 2026" */
	gone: (last: { on: string; partner: string | null; run: string | null; job: string | null }) => string;
}

/** The places that are no shelf: the ends of the ledger. Everything that reads or writes a movement asks this table. */
export const VIRTUAL_PLACES = {
	'@supplier': {
		name: 'Supplier',
		state: 'sent back',
		took: 'sent back',
		from: 'book inbound',
		to: 'book outbound',
		brings: true,
		wantsReleased: false,
		apart: 'partner',
		gone: (l) => `went back to ${l.partner ?? 'its supplier'} on ${l.on}`
	},
	'@customer': {
		name: 'Customer',
		state: 'shipped',
		took: 'shipped',
		from: 'book inbound',
		to: 'book outbound',
		brings: false,
		wantsReleased: true,
		apart: 'partner',
		gone: (l) => `was shipped to ${l.partner ?? 'a customer'} on ${l.on}`
	},
	'@process': {
		name: 'In process',
		state: 'in process',
		took: 'used',
		from: 'book production',
		to: 'book production',
		brings: true,
		wantsReleased: true,
		apart: null,
		gone: (l) => `was built in on ${l.on} (run ${l.run})`
	},
	'@job': {
		name: 'Job',
		state: 'issued',
		took: 'issued',
		from: 'book any event',
		to: 'issue to jobs',
		brings: false,
		wantsReleased: true,
		apart: 'job',
		gone: (l) => `was issued to ${l.job ?? 'a job'} on ${l.on}`
	},
	'@scrap': {
		name: 'Scrapped',
		state: 'scrapped',
		took: 'scrapped',
		from: 'adjust stock',
		to: 'adjust stock',
		brings: false,
		wantsReleased: false,
		apart: null,
		gone: (l) => `was scrapped on ${l.on}`
	},
	'@adjust': {
		name: 'Adjusted',
		state: 'adjusted',
		took: 'adjusted',
		from: 'adjust stock',
		to: 'adjust stock',
		brings: true,
		wantsReleased: false,
		apart: null,
		gone: (l) => `was adjusted away on ${l.on}`
	}
} as const satisfies Record<string, VirtualPlace>;

/** The table's row of a place; null for a shelf, a bin or a site. */
export const virtualPlace = (code: unknown): VirtualPlace | null =>
	typeof code === 'string' && Object.hasOwn(VIRTUAL_PLACES, code)
		? VIRTUAL_PLACES[code as keyof typeof VIRTUAL_PLACES]
		: null;

/** A place as people read it in a list: "Customer", "QS/A1". */
export const placeName = (code: string): string => virtualPlace(code)?.name ?? code;
