import { showDay } from '../dates/dates.ts';
import type { SheetState } from './sheet.ts';

/**
 * How and when a document ended, for its head; empty while it is open.
 * @param done what it is when all of it was booked: "shipped". One that was closed before that is only closed
 */
export const endedOn = (
	{ closedAt, closedShort }: Pick<SheetState, 'closedAt' | 'closedShort'>,
	done: string
): string => (closedAt ? `${closedShort === null ? done : 'closed incomplete'} ${showDay(closedAt)}` : '');
