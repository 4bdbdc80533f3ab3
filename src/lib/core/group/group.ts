/** Adds to the list that stands under a key. */
export function addTo<T, K>(lists: Map<K, T[]>, key: K, x: T): void {
	const held = lists.get(key);
	if (held) held.push(x);
	else lists.set(key, [x]);
}

/** Splits a list by a key, keeping the order within each part and of the parts. */
export function group<T, K>(list: Iterable<T>, key: (x: T) => K): Map<K, T[]> {
	const map = new Map<K, T[]>();
	for (const x of list) addTo(map, key(x), x);
	return map;
}
