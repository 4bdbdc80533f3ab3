import { pool } from '$lib/server/database/pool';
import { setTodo } from '$lib/server/document/todo';
import { sheetAct } from '$lib/server/sheet/page';
import type { RequestHandler } from './$types';

/** Adds something that stays to be done, or ticks it off. */
export const POST: RequestHandler = (event) =>
	sheetAct(pool(), event, (who, order, given) => setTodo(pool(), who, order, given));
