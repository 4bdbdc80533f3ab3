import type { Act, FloorState } from './moves.ts';

/** What a scan on the floor did, and where the unit is. */
export interface FloorAnswer {
	id: string;
	taken: boolean;
	/** it was read a moment ago: nothing was done now */
	again: boolean;
	act: Act | 'look';
	/** its tag was written, and the write held */
	wrote: boolean;
	said: string;
	unit: {
		item: string;
		itemName: string;
		serial: string;
		order: string | null;
		operation: string | null;
		/** of the operation */
		name: string | null;
		state: FloorState | null;
		since: string | null;
		by: string | null;
	} | null;
}
