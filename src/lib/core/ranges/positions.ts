import { split } from './ranges.ts';

/**
 * Positions of a run of numbers, counted from 0, written as "0-4,7": which of ten thousand were scanned is a few signs.
 * What cannot be read holds none.
 */
export class Positions {
	private constructor(private readonly parts: readonly (readonly [from: number, to: number])[]) {}

	static read(text: string | undefined): Positions {
		const parts = (text ?? '').split(',').flatMap((part): [number, number][] => {
			const m = /^(\d{1,6})(?:-(\d{1,6}))?$/.exec(part);
			return m ? [[Number(m[1]), Number(m[2] ?? m[1])]] : [];
		});
		return new Positions(parts);
	}

	has(position: number): boolean {
		return this.parts.some(([from, to]) => from <= position && position <= to);
	}

	/** How many of the first `count` there are. */
	within(count: number): number {
		return this.parts.reduce((n, [from, to]) => n + Math.max(0, Math.min(to, count - 1) - from + 1), 0);
	}

	/** With one more, as text. */
	with(position: number): string {
		if (this.has(position)) return this.text();
		const parts: [number, number][] = [];
		for (const [from, to] of [...this.parts, [position, position] as const].sort((a, b) => a[0] - b[0])) {
			const last = parts.at(-1);
			if (last && from <= last[1] + 1) last[1] = Math.max(last[1], to);
			else parts.push([from, to]);
		}
		return new Positions(parts).text();
	}

	private text(): string {
		return this.parts.map(([from, to]) => (from === to ? `${from}` : `${from}-${to}`)).join(',');
	}
}

/** Where a number stands in a run of `count` from a first one, each `step` after the one before; null when it is not in it. */
export function positionIn(run: { first: string; count: number; step: number }, number: string): number | null {
	if (number === run.first) return 0;
	const [a, b] = [split(run.first), split(number)];
	if (!a || !b || a.head !== b.head || a.tail !== b.tail) return null;
	const apart = BigInt(b.digits) - BigInt(a.digits);
	if (apart <= 0n || apart % BigInt(run.step) !== 0n) return null;
	const position = apart / BigInt(run.step);
	// As it would be written out: with the zeros of the first.
	const written = b.digits.length === Math.max(a.digits.length, BigInt(b.digits).toString().length);
	return written && position < BigInt(run.count) ? Number(position) : null;
}
