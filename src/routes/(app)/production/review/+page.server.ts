import { randomUUID } from 'node:crypto';
import { can } from '$lib/core/people/can';
import { Problem } from '$lib/core/problem/problem';
import { grouped } from '$lib/core/quantity/sign';
import { pool } from '$lib/server/database/pool';
import {
	bookReviewed,
	handToDesk,
	reviewOrders,
	reviewPage,
	sendBack,
	takeAsItIs
} from '$lib/server/production/review';
import { action, page, readJson } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

const STATES = ['ready', 'open', 'back'] as const;

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const at = event.url.searchParams;
		const state = STATES.find((s) => s === at.get('state')) ?? 'ready';
		const [order, item] = [at.get('order')?.slice(0, 60) || null, at.get('item')?.slice(0, 60) || null];
		const [afterOrder, after] = [at.get('afterOrder')?.slice(0, 60), at.get('after')?.slice(0, 60)];
		const [orders, units] = await Promise.all([
			reviewOrders(pool()),
			reviewPage(pool(), {
				...{ order, item, state },
				after: afterOrder && after ? { order: afterOrder, serial: after } : null
			})
		]);
		return {
			...{ asked: { order, item, state }, orders: [...orders], ...units, first: !after },
			may: can(who.role, 'book production'),
			mayReview: can(who.role, 'review units'),
			key: randomUUID()
		};
	});

const units = (n: number) => `${grouped(n)} ${n === 1 ? 'unit' : 'units'}`;
export const actions: Actions = {
	book: action('book production', async ({ who, typed }) => {
		const done = await bookReviewed(pool(), who, {
			key: typed.key,
			units: readJson(typed.units),
			reason: typed.reason || null
		});
		const faults = done.flatMap((d) => d.faults);
		const booked = done.reduce((n, d) => n + d.units, 0);
		if (!booked) throw new Problem(faults);
		const of = done.filter((d) => d.units).map((d) => d.order);
		return { said: `${units(booked)} of ${of.join(', ')} ${booked === 1 ? 'is' : 'are'} booked.`, faults };
	}),
	back: action('review units', async ({ who, typed }) => {
		const n = await sendBack(pool(), who, { order: typed.order, serials: [typed.serial], why: typed.why ?? '' });
		return { said: n ? `${typed.serial} is sent back: ${typed.why}` : '' };
	}),
	take: action('review units', async ({ who, typed }) => {
		await takeAsItIs(pool(), who, typed.order ?? '', typed.serial ?? '');
		return { said: `${typed.serial} is ready to be booked.` };
	}),
	desk: action('book production', async ({ who, typed }) => {
		await handToDesk(pool(), who, typed.order ?? '', typed.serial ?? '');
		return { said: `${typed.serial} stands in the sheet of ${typed.order} now.` };
	})
};
