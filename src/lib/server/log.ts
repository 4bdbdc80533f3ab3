import pino from 'pino';

/** The server's log: JSON lines. Cookies, tokens and bodies are never given to it. */
export const log = pino({ level: process.env.EARMARK_LOG ?? 'info', base: null });

/** An error as it may be written down: what failed and where, without the values that a database error repeats. */
export function plainError(error: unknown): Record<string, unknown> {
	const e = error as {
		name?: string;
		code?: string;
		message?: string;
		stack?: string;
		constraint_name?: string;
		table_name?: string;
	};
	if (e?.name !== 'PostgresError') return { name: e?.name, message: e?.message, stack: e?.stack };
	// The message and the detail of a database error may quote what was given; its code and its place do not.
	const place = e.stack
		?.split('\n')
		.filter((l) => /^\s+at /.test(l))
		.join('\n');
	return { name: e.name, code: e.code, constraint: e.constraint_name, table: e.table_name, stack: place };
}
