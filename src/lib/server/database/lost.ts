import { Problem } from '../../core/problem/problem.ts';

/** How the driver and PostgreSQL name a connection that is gone, or a server that is going or coming. */
const LOST = new Set([
	'CONNECTION_CLOSED',
	'CONNECTION_ENDED',
	'CONNECTION_DESTROYED',
	'CONNECT_TIMEOUT',
	'ECONNREFUSED',
	'ECONNRESET',
	'EPIPE',
	// PostgreSQL, appendix A: admin_shutdown, crash_shutdown, cannot_connect_now, connection exceptions
	'57P01',
	'57P02',
	'57P03',
	'08000',
	'08003',
	'08006'
]);

/** All connections that the database has are in use (PostgreSQL, appendix A: too_many_connections). */
const BUSY = '53300';
/** The disk of the database is full (disk_full). */
const FULL = '53100';

/**
 * What is said of an error that is the database's trouble and not the request's: what was asked may be asked again.
 * @returns a Problem of 503 or 507; null for any other error
 */
export function troubleOf(error: unknown): Problem | null {
	const code = (error as { code?: string } | null)?.code ?? '';
	if (code === BUSY) return new Problem('Too many ask the database at once. Try again in a moment.', 503);
	if (code === FULL)
		return new Problem(
			'The disk of the database is full. Nothing was changed; tell your administrator to make room.',
			507
		);
	return isLost(error)
		? new Problem('The database was lost for a moment. What you typed is kept; try again.', 503)
		: null;
}

/** Was it the connection that failed, and not what was asked? Asking again may succeed. */
export const isLost = (error: unknown): boolean => LOST.has((error as { code?: string } | null)?.code ?? '');
