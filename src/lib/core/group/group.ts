/** Splits a list by a key, keeping the order within each part and of the parts. */
export function group<T, K>(list: readonly T[], key: (x: T) => K): Map<K, T[]> {
	const map = new Map<K, T[]>();
	for (const x of list) {
		const k = key(x);
		const held = map.get(k);
		if (held) held.push(x);
		else map.set(k, [x]);
	}
	return map;
}
