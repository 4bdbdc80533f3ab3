/**
 * Where somebody goes on after signing in: only an address of our own, so that nobody is sent elsewhere by a link. Compared as a
 * browser will read it.
 * @param url with the address in "to"
 */
export function ownPath(url: URL): string {
	try {
		const to = new URL(url.searchParams.get('to') ?? '/', url.origin);
		// A path that begins with two strokes would be another host's to whoever reads it next.
		return to.origin === url.origin && !/^\/[/\\]/.test(to.pathname) ? to.pathname + to.search : '/';
	} catch {
		return '/';
	}
}
