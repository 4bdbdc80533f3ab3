import type { RequestEvent } from '@sveltejs/kit';
import { readView, type ListPage } from '../../core/list/list.ts';
import { dayIn } from '../../core/time/clock.ts';
import type { Sql } from '../database/connect.ts';
import { firmZone } from '../marks/zone.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { listPage } from './read.ts';
import type { ListSource } from './source.ts';

/** Today, where the firm is. */
export const firmToday = async (sql: Sql) => dayIn(await firmZone(sql), new Date());

/** The page of a list that an address asks, for the person who asks it. */
export const listFor = async (
	sql: Sql,
	{ url }: Pick<RequestEvent, 'url'>,
	who: Actor,
	source: ListSource
): Promise<ListPage> =>
	listPage(sql, source, readView(source, url.searchParams), { today: await firmToday(sql), login: who.name });
