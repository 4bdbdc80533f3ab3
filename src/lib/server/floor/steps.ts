import { z } from 'zod';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import { noSuch } from '../../core/checks/catalogue.ts';
import { faultFrom } from '../../core/checks/check.ts';
import { showWhen } from '../../core/dates/dates.ts';
import {
	ACTS,
	AGAIN_WITHIN,
	leaves,
	move,
	sayWhere,
	type FloorState,
	type Operation,
	type Where
} from '../../core/floor/moves.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { Problem } from '../../core/problem/problem.ts';
import { key, line, number, text } from '../../core/text/input.ts';
import { timeIn } from '../../core/time/clock.ts';
import { checkTime, digest, withRetry } from '../ledger/append.ts';
import { beginSerial } from '../ledger/begin.ts';
import { firmZone } from '../marks/zone.ts';
import { parse } from '../parse.ts';
import { routeOf } from './routes.ts';

/** A step, as a program or a station gives it. */
export const stepInput = z.strictObject({
	key,
	at: z.iso.datetime({ offset: true, error: 'Give the time as 2026-03-14T09:30:00Z.' }),
	item: line(60, 1, 'Name the item.'),
	serial: number,
	act: z.enum(ACTS, `Say what is done: ${ACTS.join(', ')}.`),
	operation: line(30).nullish().describe('Rework: the operation it goes back to; where it stands if left out.'),
	reason: text(1000, 0).nullish()
});
/** What a step is done with besides: at a station, for an order, how the unit became known. */
export interface StepWith {
	station?: string | null;
	order?: string | null;
	evidence?: 'scanned' | 'entered' | 'reported';
	/** runs before the step counts, in its transaction: a tag that is written and confirmed. A throw undoes the step */
	confirm?: (to: { operation: string; state: FloorState }) => Promise<void>;
	now?: Date;
}
/** Where a unit is after a step. */
export interface Stepped {
	operation: string;
	state: FloorState;
	/** the same tag was read a moment ago: nothing was done now */
	again?: true;
	/** the same key was sent before */
	known?: true;
}

interface Found {
	item: string;
	mark: string | null;
	facts: Record<string, string>;
	route: string | null;
	operations: Operation[] | null;
	operation: string | null;
	state: FloorState | null;
	was: FloorState | null;
	since: Date | null;
	lastAct: string | null;
	station: string | null;
}
/** A unit with where it is, held until the transaction ends. */
async function find(tx: Db, item: string, serial: string): Promise<Found> {
	const [found] = await tx<Found[]>`
		SELECT i.id AS item, k.id AS mark, coalesce(k.facts, '{}') AS facts, f.route_id AS route, r.operations, f.operation, f.state, f.was, f.since, s.act AS "lastAct", t.name AS station
		FROM item i LEFT JOIN mark k ON k.item_id = i.id AND k.kind = 'serial' AND k.serial_no = ${serial}
		LEFT JOIN floor f ON f.mark_id = k.id LEFT JOIN route r ON r.id = f.route_id LEFT JOIN step s ON s.id = f.last_step LEFT JOIN station t ON t.id = s.station_id
		WHERE i.code = ${item}`;
	if (!found) throw new Problem([faultFrom(noSuch, { what: 'item', code: item }, 'item')]);
	return found;
}

/**
 * Does something to a unit on the floor: releases it, moves it on by a read, holds it, sends it to rework or takes it out,
 * scraps it. Each step is kept for good and is an entry of the ledger. A read of the same unit within ten seconds does
 * nothing. Releasing a serial that is not known yet makes it known.
 * @throws Problem 409 when the key stands for another step; 422 with the reason where the unit does not go
 */
export async function takeStep(sql: Sql, actor: Actor, input: unknown, more: StepWith = {}): Promise<Stepped> {
	const given = parse(stepInput, input);
	checkTime(given, more.now ? () => more.now! : undefined);
	const request = digest([
		given.at,
		given.item,
		given.serial,
		given.act,
		given.operation ?? null,
		given.reason ?? null
	]);
	return withRetry(sql, given.key, async () => {
		const known = await knownStep(sql, given.key, request);
		if (known) return known;
		const found = await find(sql, given.item, given.serial);
		if (!found.mark && given.act === 'release') return begin(sql, actor, given, request, more);
		return transaction(sql, (tx) => write(tx, actor, given, request, more));
	});
}
type Given = z.output<typeof stepInput>;
const refuse = (message: string, at = 'serial') => new Problem([{ message, at, code: 'floor' }]);

async function knownStep(sql: Db, under: string, request: string): Promise<Stepped | null> {
	const [known] = await sql<{ request: string; operation: string; state: FloorState }[]>`
		SELECT request, operation, state FROM step WHERE key = ${under}`;
	if (!known) return null;
	if (known.request !== request)
		throw new Problem(
			[
				{
					message: `The key ${under} stands for another step already. Give each step a key of its own.`,
					at: 'key',
					code: 'key'
				}
			],
			409
		);
	return { operation: known.operation, state: known.state, known: true };
}

/** Releases a serial that nobody knows yet. */
async function begin(sql: Sql, actor: Actor, given: Given, request: string, more: StepWith): Promise<Stepped> {
	const [carries] = await sql<{ numbers: string }[]>`SELECT tracking AS numbers FROM item WHERE code = ${given.item}`;
	if (!carries.numbers.includes('serial')) throw refuse(`${given.item} carries no serials. Name another item.`, 'item');
	await wantRoute(sql, given.item);
	let done: Stepped | undefined;
	const { item: code, serial, at, key: under } = given;
	await beginSerial(sql, actor, { key: `step:${under}`, at, item: code, serial }, async (tx) => {
		done = await write(tx, actor, given, request, more);
	});
	// Another one with the same key made it meanwhile.
	return done ?? (await knownStep(sql, under, request))!;
}
async function wantRoute(sql: Db, item: string) {
	const route = await routeOf(sql, item);
	if (!route) throw refuse(`${item} has no route. Set one in Setup, Items, before a unit of it is released.`, 'item');
	return route;
}

async function write(tx: Tx, actor: Actor, given: Given, request: string, more: StepWith): Promise<Stepped> {
	const { item, serial, act } = given;
	// One at a time on one unit.
	await tx`SELECT pg_advisory_xact_lock(hashtext('floor'), hashtext(${`${item} ${serial}`}))`;
	const found = await find(tx, item, serial);
	if (!found.mark) throw refuse(`There is no ${serial} of ${item}. Check the number, or release it first.`);
	const at = new Date(given.at);
	const where: Where | null = found.operation
		? { operation: found.operation, state: found.state!, was: found.was }
		: null;
	if (
		act === 'read' &&
		where &&
		found.lastAct === 'read' &&
		Math.abs(at.getTime() - found.since!.getTime()) < AGAIN_WITHIN
	)
		return { operation: where.operation, state: where.state, again: true };
	if (found.since && at < found.since) {
		const zone = await firmZone(tx);
		const when = (d: Date) => showWhen(timeIn(zone, d, 'yyyy-MM-dd HH:mm:ss'));
		throw refuse(
			`${serial} was there at ${when(found.since)}${found.station ? ` (${found.station})` : ''}; this step says ${when(at)}, which is before it. Set the clock right, and send it again.`,
			'at'
		);
	}
	const route = found.route ? { id: found.route, operations: found.operations! } : await wantRoute(tx, item);
	const to = move(route.operations, where, { act, operation: given.operation, unit: serial });
	if ('problem' in to) throw refuse(to.problem);
	if (leaves(where, act))
		await mayLeave(
			tx,
			found,
			route.operations.find((o) => o.code === where!.operation)!,
			serial
		);
	const station = await stationFor(tx, more.station ?? null, route.operations, where ?? to, to, serial);
	const [{ order }] = await tx<{ order: string | null }[]>`
		SELECT coalesce((SELECT id FROM orders WHERE code = ${more.order ?? null}), (SELECT order_id FROM drawn_number WHERE item_id = ${found.item} AND kind = 'serial' AND number = ${serial})) AS order`;
	await tx`INSERT INTO step (key, request, at, mark_id, route_id, act, from_operation, from_state, operation, state, was, order_id, station_id, evidence, reason, done_by, source)
		VALUES (${given.key}, ${request}, ${at}, ${found.mark}, ${route.id}, ${act}, ${where?.operation ?? null}, ${where?.state ?? null}, ${to.operation}, ${to.state}, ${to.was},
			${order}, ${station}, ${more.evidence ?? (actor.source === 'api' ? 'reported' : 'entered')}, ${given.reason || null}, ${actor.name}, ${actor.source})`;
	await more.confirm?.({ operation: to.operation, state: to.state });
	return { operation: to.operation, state: to.state };
}

/** The station must be one of those where the operation is done. @returns its id */
async function stationFor(
	tx: Db,
	station: string | null,
	route: readonly Operation[],
	at: Where,
	to: Where,
	unit: string
): Promise<string | null> {
	if (!station) return null;
	const [found] = await tx<{ id: string; name: string }[]>`SELECT id, name FROM station WHERE code = ${station}`;
	if (!found) throw refuse(`There is no station ${station}. Set it up in Setup, Stations.`, 'station');
	// A read that takes a unit out belongs to the station of the operation that it leaves.
	const operation = route.find((o) => o.code === (at.state === 'in process' ? at : to).operation)!;
	if (operation.stations.length && !operation.stations.includes(station))
		throw refuse(
			`${operation.name} of ${unit} is done at ${operation.stations.join(' or ')}, not at ${found.name}. Bring it there.`,
			'station'
		);
	return found.id;
}

/** An operation is not left before its use is recorded and its values are in. @throws Problem naming what is missing */
async function mayLeave(tx: Db, found: Found, operation: Operation, serial: string): Promise<void> {
	if (operation.recordsUse) {
		const [used] = await tx`
			SELECT 1 FROM run r JOIN effective_movement m ON m.run_id = r.id AND m.role = 'use' WHERE r.unit_mark = ${found.mark}
			UNION ALL SELECT 1 FROM unit_work u JOIN order_line l ON l.order_id = u.order_id AND l.role = 'output' AND l.item_id = ${found.item} WHERE u.serial = ${serial} AND u.state = 'ready' LIMIT 1`;
		if (!used)
			throw refuse(
				`${serial} does not leave ${operation.name} before its parts are recorded. Scan its card and its parts at a station, or record the use.`
			);
	}
	const missing = operation.values.filter((v) => !found.facts[v]);
	if (!missing.length) return;
	const names = await tx<{ name: string }[]>`SELECT name FROM fact WHERE code = ANY(${missing}) ORDER BY name`;
	throw refuse(
		`${serial} does not leave ${operation.name} before ${names.map((n) => n.name).join(' and ')} ${names.length > 1 ? 'are' : 'is'} recorded. Add ${names.length > 1 ? 'them' : 'it'} on its page.`
	);
}

/** A step of a unit's way. */
export interface StepRow {
	at: string;
	act: string;
	from: { operation: string; state: FloorState } | null;
	operation: string;
	state: FloorState;
	reason: string | null;
	by: string;
	station: string | null;
	evidence: string;
	order: string | null;
}
/** One unit's way: where it is, and every step that took it there. Null when there is no such unit, or it was never released. */
export async function wayOf(
	sql: Db,
	item: string,
	serial: string
): Promise<{ operation: string; state: FloorState; steps: StepRow[] } | null> {
	const rows = await sql<
		(Omit<StepRow, 'at' | 'from'> & { at: Date; fromOperation: string | null; fromState: FloorState })[]
	>`
		SELECT s.at, s.act, s.from_operation AS "fromOperation", s.from_state AS "fromState", s.operation, s.state, s.reason, coalesce(p.name, s.done_by) AS by, t.name AS station, s.evidence, o.code AS order
		FROM item i JOIN mark k ON k.item_id = i.id AND k.kind = 'serial' AND k.serial_no = ${serial} JOIN step s ON s.mark_id = k.id
		LEFT JOIN person p ON p.login = s.done_by LEFT JOIN station t ON t.id = s.station_id LEFT JOIN orders o ON o.id = s.order_id
		WHERE i.code = ${item} ORDER BY s.id`;
	if (!rows.length) return null;
	const last = rows[rows.length - 1];
	return {
		operation: last.operation,
		state: last.state,
		steps: rows.map(({ at, fromOperation, fromState, ...s }) => ({
			at: at.toISOString(),
			...s,
			from: fromOperation === null ? null : { operation: fromOperation, state: fromState }
		}))
	};
}

/** One unit's way as its page shows it: the names of operations, times those of the firm. */
export async function wayShown(
	sql: Db,
	item: string,
	serial: string
): Promise<{ now: string; steps: (Omit<StepRow, 'from'> & { name: string })[] } | null> {
	const way = await wayOf(sql, item, serial);
	if (!way) return null;
	const [zone, [route]] = await Promise.all([
		firmZone(sql),
		sql<{ operations: Operation[] }[]>`
			SELECT r.operations FROM floor f JOIN mark k ON k.id = f.mark_id JOIN item i ON i.id = k.item_id JOIN route r ON r.id = f.route_id
			WHERE i.code = ${item} AND k.kind = 'serial' AND k.serial_no = ${serial}`
	]);
	const name = (code: string) => route.operations.find((o) => o.code === code)?.name ?? code;
	return {
		now: sayWhere({ operation: way.operation, state: way.state, was: null }, name(way.operation)),
		steps: way.steps.map(({ from: _from, ...s }) => ({
			...s,
			at: timeIn(zone, new Date(s.at)),
			name: name(s.operation)
		}))
	};
}
