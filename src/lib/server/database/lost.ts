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

/** Was it the connection that failed, and not what was asked? Asking again may succeed. */
export const isLost = (error: unknown): boolean => LOST.has((error as { code?: string } | null)?.code ?? '');
