/*
 * The tree over the entries of the ledger, as RFC 9162 (Certificate Transparency 2.0), section 2.1, defines it. What is
 * kept of it are the leaves and the nodes over full subtrees; every root and every proof is put together from a few dozen
 * of those, however many entries there are.
 */

/** SHA-256, handed in by whoever has it. */
export type Hash = (data: Uint8Array) => Uint8Array;
/** The root of a full subtree: 2^level leaves, the index-th of them in its level; level 0 is a leaf. */
export interface Node {
	level: number;
	index: number;
}
/** Finds the hash of a full subtree that is kept. */
export type Lookup = (node: Node) => Uint8Array;
/** A part of a proof: the hash over the full subtrees next to each other, the last of which may be smaller. */
export type Range = readonly Node[];

/** The hash of a node (2.1.1): of a one and the hashes of both its halves. */
function nodeHash(hash: Hash, left: Uint8Array, right: Uint8Array): Uint8Array {
	const both = new Uint8Array(1 + left.length + right.length);
	both[0] = 1;
	both.set(left, 1);
	both.set(right, 1 + left.length);
	return hash(both);
}

/** The largest power of two below a number of leaves of at least two. */
function half(n: number): number {
	let k = 1;
	while (k * 2 < n) k *= 2;
	return k;
}

/** The full subtrees over the leaves from `from` to before `to`, as a tree of that many leaves divides them. */
export function rangeOf(from: number, to: number): Node[] {
	const out: Node[] = [];
	while (from < to) {
		let [level, size] = [0, 1];
		while (size * 2 <= to - from) [level, size] = [level + 1, size * 2];
		out.push({ level, index: from / size });
		from += size;
	}
	return out;
}

/** The hash over a range: its full subtrees joined from the last to the first. */
export const rangeHash = (hash: Hash, range: Range, lookup: Lookup): Uint8Array =>
	range.map(lookup).reduceRight((right, left) => nodeHash(hash, left, right));

/** The root of the tree over the first `size` entries; of none it is the hash of nothing (2.1.1). */
export const rootHash = (hash: Hash, size: number, lookup: Lookup): Uint8Array =>
	size ? rangeHash(hash, rangeOf(0, size), lookup) : hash(new Uint8Array());

/**
 * What proves that the entry of an index is in the tree over the first `size` entries (2.1.3.1).
 * @returns the parts of the path, from the leaf up
 */
export function inclusionPath(index: number, size: number): Range[] {
	const path = (m: number, from: number, to: number): Range[] => {
		if (to - from === 1) return [];
		const k = half(to - from);
		return m < k
			? [...path(m, from, from + k), rangeOf(from + k, to)]
			: [...path(m - k, from + k, to), rangeOf(from, from + k)];
	};
	return path(index, 0, size);
}

/**
 * What proves that the tree over the first `to` entries begins with that over the first `from` (2.1.4.1).
 * @returns the parts of the path; none where both are the same, or the first is empty
 */
export function consistencyPath(from: number, to: number): Range[] {
	const part = (m: number, at: number, end: number, whole: boolean): Range[] => {
		if (m === end - at) return whole ? [] : [rangeOf(at, end)];
		const k = half(end - at);
		return m <= k
			? [...part(m, at, at + k, whole), rangeOf(at + k, end)]
			: [...part(m - k, at + k, end, false), rangeOf(at, at + k)];
	};
	return from === 0 || from === to ? [] : part(from, 0, to, true);
}

/** A tree that leaves are added to one by one: made anew, it tells every node that should be kept and every root. */
export class Growing {
	/** full subtrees so far, the largest first */
	private edge: { node: Node; hash: Uint8Array }[] = [];
	size = 0;
	constructor(private readonly hash: Hash) {}

	/** Adds a leaf. @returns the nodes over full subtrees that it completes */
	add(leaf: Uint8Array): { node: Node; hash: Uint8Array }[] {
		const made: { node: Node; hash: Uint8Array }[] = [];
		let last = { node: { level: 0, index: this.size }, hash: leaf };
		this.size++;
		for (let before = this.edge.at(-1); before?.node.level === last.node.level; before = this.edge.at(-1)) {
			this.edge.pop();
			last = {
				node: { level: last.node.level + 1, index: before.node.index / 2 },
				hash: nodeHash(this.hash, before.hash, last.hash)
			};
			made.push(last);
		}
		this.edge.push(last);
		return made;
	}

	/** The root over all leaves so far. */
	root(): Uint8Array {
		if (!this.edge.length) return this.hash(new Uint8Array());
		return this.edge.map((e) => e.hash).reduceRight((right, left) => nodeHash(this.hash, left, right));
	}
}
