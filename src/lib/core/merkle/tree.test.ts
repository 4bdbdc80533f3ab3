import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	consistencyPath,
	Growing,
	inclusionPath,
	rangeHash,
	rangeOf,
	rootHash,
	type Hash,
	type Lookup,
	type Range
} from './tree.ts';
import { sha, verifyConsistency, verifyInclusion } from '../../../../tests/proofs.ts';

const hash: Hash = sha;
const hex = (b: Uint8Array) => Buffer.from(b).toString('hex');

/** Eight leaves that the published test vectors of certificate logs use. */
const LEAVES = ['', '00', '10', '2021', '3031', '40414243', '5051525354555657', '606162636465666768696a6b6c6d6e6f'];
/** Roots over the first so many of them; those of 4, 6 and 7 from memory. */
const ROOTS: [number, string][] = [
	[1, '6e340b9cffb37a989ca544e6bb780a2c78901d3fb33738768511a30617afa01d'],
	[2, 'fac54203e7cc696cf0dfcb42c92a1d9dbaf70ad9e621f4bd8d98662f00e3c125'],
	[3, 'aeb6bcfe274b70a14fb067a5e5578264db0fa9b51af5e0ba159158f329e06e77'],
	[4, 'd37ee418976dd95753c1c73862b9398fa2a2cf9b4ff0fdfe8b30cd95209614b7'],
	[5, '4e3bbb1f7b478dcfe71fb631631519a3bca12c9aefca1612bfce4c13a86264d4'],
	[6, '76e67dadbcdf1e10e1b74ddc608abd2f98dfb16fbce75277b5232a127f2087ef'],
	[7, 'ddb89be403809e325750d3d263cd78929c2942b7942a34b77e122c9594a74c8c'],
	[8, '5dc9da79a70659a9ad559cb701ded9a2ab9d823aad2f4960cfe370eff4604328']
];

/** The tree straight from the definition (RFC 9162, 2.1.1): split, hash both halves, join. */
function mth(leaves: Uint8Array[]): Uint8Array {
	if (!leaves.length) return createHash('sha256').digest();
	if (leaves.length === 1) return leaves[0];
	let k = 1;
	while (k * 2 < leaves.length) k *= 2;
	return sha(Buffer.concat([Buffer.from([1]), mth(leaves.slice(0, k)), mth(leaves.slice(k))]));
}
/** The nodes over full subtrees as a growing tree tells them. */
function grown(leaves: readonly Uint8Array[]): { tree: Growing; lookup: Lookup } {
	const tree = new Growing(hash);
	const nodes = new Map(leaves.map((l, i) => [`0 ${i}`, l]));
	for (const l of leaves) for (const n of tree.add(l)) nodes.set(`${n.node.level} ${n.node.index}`, n.hash);
	const lookup: Lookup = ({ level, index }) => {
		const found = nodes.get(`${level} ${index}`);
		if (!found) throw new Error(`there is no full subtree ${level} ${index}`);
		return found;
	};
	return { tree, lookup };
}
const hashes = (path: Range[], lookup: Lookup) => path.map((r) => rangeHash(hash, r, lookup));
const random = fc.uint8Array({ minLength: 32, maxLength: 32 });

describe('the tree of RFC 9162, 2.1', () => {
	it.each(ROOTS)('has the published root over the first %i leaves of the test vectors', (size, root) => {
		const leaves = LEAVES.slice(0, size).map((l) => sha(Buffer.concat([Buffer.from([0]), Buffer.from(l, 'hex')])));
		const { tree, lookup } = grown(leaves);
		expect(hex(tree.root())).toBe(root);
		expect(hex(rootHash(hash, size, lookup))).toBe(root);
	});
	it('of nothing is the hash of nothing', () => {
		const empty = 'e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855';
		expect(hex(new Growing(hash).root())).toBe(empty);
		expect(hex(rootHash(hash, 0, () => new Uint8Array()))).toBe(empty);
	});
	it('has the root that the definition gives, at every size on its way', () => {
		fc.assert(
			fc.property(fc.array(random, { maxLength: 70 }), (leaves) => {
				const { tree, lookup } = grown(leaves);
				expect(hex(tree.root())).toBe(hex(mth(leaves)));
				for (let n = 0; n <= leaves.length; n++)
					expect(hex(rootHash(hash, n, lookup))).toBe(hex(mth(leaves.slice(0, n))));
			}),
			{ numRuns: 30 }
		);
	});
	it('reads a few dozen nodes over ten million entries', () => {
		const size = 10_000_000;
		const read = (path: Range[]) => path.flat().length;
		for (const index of [0, 1, 4_999_999, 8_388_608, size - 1])
			expect(read(inclusionPath(index, size))).toBeLessThan(60);
		for (const from of [1, 2, 777_777, 8_388_609, size - 1]) expect(read(consistencyPath(from, size))).toBeLessThan(60);
		expect(rangeOf(0, size).length).toBeLessThan(25);
	});
});

describe('its proofs, looked at by code that shares nothing with their maker', () => {
	const sized = fc.array(random, { minLength: 1, maxLength: 130 });
	it('prove each entry, and no other one', () => {
		fc.assert(
			fc.property(sized, fc.nat(), fc.nat(), random, (leaves, a, b, other) => {
				const size = 1 + (a % leaves.length);
				const index = b % size;
				const { lookup } = grown(leaves);
				const root = mth(leaves.slice(0, size));
				const path = hashes(inclusionPath(index, size), lookup);
				expect(verifyInclusion(leaves[index], index, size, path, root)).toBe(true);
				expect(verifyInclusion(other, index, size, path, root)).toBe(false);
				if (path.length) {
					const bent = path.with(0, other);
					expect(verifyInclusion(leaves[index], index, size, bent, root)).toBe(false);
					expect(verifyInclusion(leaves[index], index, size, path.slice(1), root)).toBe(false);
				}
			})
		);
	});
	it('prove that a later tree begins with an earlier one, and with no other', () => {
		fc.assert(
			fc.property(sized, fc.nat(), fc.nat(), random, (leaves, a, b, other) => {
				const to = 1 + (a % leaves.length);
				const from = 1 + (b % to);
				const { lookup } = grown(leaves);
				const [first, second] = [mth(leaves.slice(0, from)), mth(leaves.slice(0, to))];
				const path = hashes(consistencyPath(from, to), lookup);
				expect(verifyConsistency(from, to, path, first, second)).toBe(true);
				expect(verifyConsistency(from, to, path, other, second)).toBe(false);
				// A ledger rewritten before the paper: another first entry under good hashes.
				const rewritten = [other, ...leaves.slice(1)];
				const forged = hashes(consistencyPath(from, to), grown(rewritten).lookup);
				expect(verifyConsistency(from, to, forged, first, mth(rewritten.slice(0, to)))).toBe(false);
			})
		);
	});
});
