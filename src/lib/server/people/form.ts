import type { RequestEvent } from '@sveltejs/kit';
import { pool } from '../database/pool.ts';
import { action, keepNothing } from '../request.ts';
import { changeOwnPassword } from './you.ts';

/** The form of one's own password, on the page of oneself and after the first sign-in. Nothing of it goes back. */
export const setOwnPassword = action(
	'read',
	async ({ who, typed, event }: { who: { name: string }; typed: Record<string, string>; event: RequestEvent }) => {
		const { now = '', next = '', again = '' } = typed;
		const asks = { secret: event.cookies.get('session') ?? '', address: event.getClientAddress() };
		await changeOwnPassword(pool(), who.name, { now, next, again }, asks);
		return { said: 'Your password is changed. You are signed out everywhere else.' };
	},
	keepNothing
);
