import pino from 'pino';

/** The server's log: JSON lines. Cookies, tokens and bodies are never given to it. */
export const log = pino({ level: process.env.EARMARK_LOG ?? 'info', base: null });
