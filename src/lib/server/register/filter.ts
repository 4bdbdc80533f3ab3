import type { RegisterFilter } from './search.ts';

/** Reads the register's filter from an address. */
export const filterOf = (p: URLSearchParams): Omit<RegisterFilter, 'today'> =>
	Object.fromEntries(
		['q', 'item', 'place', 'kind', 'show'].flatMap((k) => (p.get(k) ? [[k, p.get(k)!.slice(0, 100)]] : []))
	);
