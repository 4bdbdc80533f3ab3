import { createHash } from 'node:crypto';

/*
 * Looks at proofs as RFC 9162 tells a verifier to (2.1.3.2 and 2.1.4.2), step by step and in its words (fn, sn, fr, sr).
 * It shares no code with what makes them.
 */

/** SHA-256. */
export const sha = (data: Uint8Array): Buffer => createHash('sha256').update(data).digest();
const HASH = (left: Uint8Array, right: Uint8Array) => sha(Buffer.concat([Buffer.from([1]), left, right]));
const same = (a: Uint8Array, b: Uint8Array) => Buffer.compare(a, b) === 0;

/** Is the leaf's hash at its index in the tree of that size and root? (2.1.3.2) */
export function verifyInclusion(leaf: Uint8Array, index: number, size: number, path: Uint8Array[], root: Uint8Array) {
	if (index >= size) return false;
	let [fn, sn] = [index, size - 1];
	let r = leaf;
	for (const p of path) {
		if (sn === 0) return false;
		if (fn % 2 === 1 || fn === sn) {
			r = HASH(p, r);
			if (fn % 2 === 0)
				while (fn % 2 === 0 && fn !== 0) {
					fn = Math.floor(fn / 2);
					sn = Math.floor(sn / 2);
				}
		} else r = HASH(r, p);
		fn = Math.floor(fn / 2);
		sn = Math.floor(sn / 2);
	}
	return sn === 0 && same(r, root);
}

/** Does the tree of the second size and root begin with that of the first? (2.1.4.2) */
export function verifyConsistency(
	first: number,
	second: number,
	path: Uint8Array[],
	firstHash: Uint8Array,
	secondHash: Uint8Array
) {
	if (first === second) return !path.length && same(firstHash, secondHash);
	const list = [...path];
	if (Number.isInteger(Math.log2(first))) list.unshift(firstHash);
	if (!list.length) return false;
	let [fn, sn] = [first - 1, second - 1];
	while (fn % 2 === 1) {
		fn = Math.floor(fn / 2);
		sn = Math.floor(sn / 2);
	}
	let [fr, sr] = [list[0], list[0]];
	for (const c of list.slice(1)) {
		if (sn === 0) return false;
		if (fn % 2 === 1 || fn === sn) {
			fr = HASH(c, fr);
			sr = HASH(c, sr);
			while (fn % 2 === 0 && fn !== 0) {
				fn = Math.floor(fn / 2);
				sn = Math.floor(sn / 2);
			}
		} else sr = HASH(sr, c);
		fn = Math.floor(fn / 2);
		sn = Math.floor(sn / 2);
	}
	return sn === 0 && same(fr, firstHash) && same(sr, secondHash);
}
