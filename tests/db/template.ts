import postgres from 'postgres';

/**
 * A database of its own, copied from one that is made once for all files on the same cluster: what every file starts with
 * is not made again for each.
 * @param base of the cluster
 * @param template name of what is copied
 * @param make fills it, and leaves no connection open
 * @returns the address of the copy
 */
export async function copyOf(base: string, template: string, make: (url: string) => Promise<void>): Promise<string> {
	const at = (name: string) => {
		const url = new URL(base);
		url.pathname = `/${name}`;
		return url.href;
	};
	const copy = `${template}_${Date.now()}_${Math.floor(Math.random() * 1e6)}`;
	const admin = postgres(at('postgres'), { max: 1, onnotice: () => {} });
	try {
		// Two files at once: one makes it, the other waits.
		await admin`SELECT pg_advisory_lock(hashtext(${template}))`;
		const [there] = await admin`SELECT 1 FROM pg_database WHERE datname = ${template}`;
		if (!there) {
			const making = `${template}_in_work`;
			await admin`DROP DATABASE IF EXISTS ${admin(making)} WITH (FORCE)`;
			await make(at(making));
			await admin`ALTER DATABASE ${admin(making)} RENAME TO ${admin(template)}`;
		}
		await admin`CREATE DATABASE ${admin(copy)} TEMPLATE ${admin(template)}`;
	} finally {
		await admin.end();
	}
	return at(copy);
}
