import { existsSync } from 'node:fs';
import { join } from 'node:path';
import Piscina from 'piscina';
import { Problem } from '../../core/problem/problem.ts';
import { decimalSign } from '../../core/quantity/sign.ts';
import type { Answer, Sent, Tasks } from './tasks.ts';

/*
 * What can take more than a moment of the processor runs here, in threads of its own, so that everybody else is answered
 * meanwhile. A task that takes too long or too much memory is stopped, and only it.
 */

/** In milliseconds. */
const LONGEST = 60_000;
/** In megabytes, for one task. */
const MOST_MEMORY = 1024;
/** In megabytes, for what is made and thrown away in one: the application's own room for that is for whole bookings. */
const YOUNG = 24;

/** Who hears what a task says and writes while it runs, by its number. */
const listening = new Map<number, (sent: Sent) => void>();
let tasks = 0;
/** Calls of programs run in a thread of their own: whatever somebody sends, traces and papers do not wait for it. */
const poolFor = (name: keyof Tasks) =>
	name === 'call' ? (global.earmarkCalls ??= begin(1)) : (global.earmarkThreads ??= begin(2));
function begin(most: number): Piscina {
	// Beside the built application stands what its threads run; while it is worked on they run the source.
	const built = join(process.cwd(), process.env.EARMARK_BUILD ?? '', 'run/tasks.js');
	const source = join(process.cwd(), 'src/lib/server/work/tasks.ts');
	const made = new Piscina({
		...(existsSync(built) ? { filename: built, execArgv: [] } : { filename: source, execArgv: ['--import', 'tsx'] }),
		// One from the start where there are two, the other while there is more to do than one can.
		minThreads: most - 1,
		maxThreads: most,
		idleTimeout: 60_000,
		resourceLimits: { maxOldGenerationSizeMb: MOST_MEMORY, maxYoungGenerationSizeMb: YOUNG }
	});
	made.on('message', (sent: Sent) => listening.get(sent.task)?.(sent));
	return made;
}

/** How a task is run. */
export interface Running {
	/** how long it may take, in milliseconds */
	longest?: number;
	/** stops it */
	stop?: AbortSignal;
	/** is told what it is doing, for people */
	said?: (what: string) => void;
	/** is given what it writes, in its order */
	heard?: (sent: Sent) => void;
}
/**
 * Runs a task in a thread of its own.
 * @throws Problem that the task throws; 413 when it takes too long or too much memory, 409 when it was stopped; the trouble
 *   of a database as the driver says it
 */
export async function inThread<K extends keyof Tasks>(
	name: K,
	input: Parameters<Tasks[K]>[0],
	{ longest = LONGEST, stop, said, heard }: Running = {}
): Promise<Awaited<ReturnType<Tasks[K]>>> {
	let answer: Answer<Awaited<ReturnType<Tasks[K]>>>;
	const task = tasks++;
	try {
		const late = AbortSignal.timeout(longest);
		const signal = stop ? AbortSignal.any([late, stop]) : late;
		// What a thread says and what it answers come by different ways: the last of what it says may come after the answer.
		listening.set(task, (sent) => {
			if ('said' in sent) return said?.(sent.said);
			heard?.(sent);
			if ('done' in sent) listening.delete(task);
		});
		answer = await poolFor(name).run({ name, input, sign: decimalSign(), task }, { signal });
	} catch (e) {
		listening.delete(task);
		if (stop?.aborted) throw new Problem('It was stopped.', 409);
		const { name: kind, code } = e as { name?: string; code?: string };
		if (kind === 'AbortError' || kind === 'TimeoutError')
			throw new Problem('That took too long and was stopped. Ask for less at a time.', 413);
		if (code === 'ERR_WORKER_OUT_OF_MEMORY')
			throw new Problem('That is too large to be worked on. Ask for less at a time, or split the file.', 413);
		throw e;
	}
	if ('refused' in answer) throw new Problem(answer.refused.faults, answer.refused.status);
	if ('trouble' in answer) throw Object.assign(new Error(answer.trouble.message), { code: answer.trouble.code });
	return answer.result;
}

/**
 * The text that a trace for programs writes, as it writes it.
 * @returns null where the task says, by false, that there is no such number
 * @throws Problem that the task throws before it writes anything
 */
export function traceStream(input: Parameters<Tasks['trace']>[0]): Promise<ReadableStream<Uint8Array> | null> {
	const stop = new AbortController();
	let out: ReadableStreamDefaultController<Uint8Array>;
	const text = new ReadableStream<Uint8Array>({
		start: (controller) => void (out = controller),
		cancel: () => stop.abort()
	});
	return new Promise((begun, refused) => {
		let open = true;
		const heard = (sent: Sent) => {
			if (!open) return;
			if ('piece' in sent) {
				out.enqueue(sent.piece);
				begun(text);
			} else {
				open = false;
				out.close();
			}
		};
		inThread('trace', input, { stop: stop.signal, heard }).then(
			(there) => {
				if (!there) begun(null);
			},
			(e: unknown) => {
				if (open && !stop.signal.aborted) out.error(e);
				open = false;
				refused(e);
			}
		);
	});
}

/** Starts the threads, so that whoever needs one first does not wait for it. */
export const startThreads = (): void => void poolFor('trace');

declare global {
	var earmarkThreads: Piscina | undefined;
	var earmarkCalls: Piscina | undefined;
}
