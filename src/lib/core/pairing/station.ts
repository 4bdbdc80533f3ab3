/** A part of the unit as the station shows it. */
export interface ShownSlot {
	lineId: string;
	itemName: string;
	item: string;
	unit: string;
	decimals: number;
	per: string;
	in: string;
	left: string;
	/** what the part looks like: the SHA-256 of a file */
	picture: string | null;
	/** it has no number: it is used with the output */
	plain: boolean;
	asks: 'lot' | 'serial' | '';
	puts: { id: string; number: string; kind: string; qty: string; place: string; by: string }[];
}
/** What stands before the person. */
export interface Shown {
	order: string;
	serial: string | null;
	itemName: string;
	/** what it looks like */
	picture: string | null;
	state: 'open' | 'ready' | 'back' | 'booked';
	/** why it was sent back, or could not be booked */
	said: string;
	review: boolean;
	/** where parts without numbers come from */
	place: string;
	slots: ShownSlot[];
	/** units of the order that are ready or booked, of how many; null where it stays what it was */
	done: number | null;
	planned: string;
}
/** What a scan did, and what the station shows after it. */
export interface StationAnswer {
	id: string;
	taken: boolean;
	/** what it was: a card, a bin, a part */
	what: 'card' | 'bin' | 'part' | '';
	said: string;
	notes: string[];
	/** a bin was scanned: it counts for the next part */
	bin: string | null;
	/** the bin is asked before the part is scanned again */
	asks: 'bin' | null;
	shown: Shown | null;
}
