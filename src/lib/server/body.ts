import { Problem } from '../core/problem/problem.ts';
import { badText } from '../core/text/text.ts';

/** The most signs of one body that is JSON. */
const MOST_BODY = 20_000_000;

/** A body as it was sent. @throws Problem when it is no JSON by its name, is too large or could not be read */
export async function bodyText(request: Request): Promise<string> {
	const kind = request.headers.get('content-type') ?? '';
	if (kind && !/^application\/(json|[\w.+-]+\+json)\b/i.test(kind))
		throw new Problem('The body is not JSON. Send application/json in UTF-8.', 415);
	let text: string;
	try {
		text = await request.text();
	} catch {
		throw new Problem('The body could not be read. Send it again.', 400);
	}
	if (text.length > MOST_BODY) throw new Problem('The body is too large. Send it in parts.', 413);
	return text;
}

/** How many lists and objects may stand within each other. */
const DEEPEST = 64;
/** Does a text hold more lists or objects within each other than any body has? Seen before it is parsed. */
export function isDeep(text: string): boolean {
	let depth = 0;
	let quoted = false;
	for (let i = 0; i < text.length; i++) {
		const sign = text.charCodeAt(i);
		if (quoted) {
			if (sign === 0x5c) i++;
			else if (sign === 0x22) quoted = false;
		} else if (sign === 0x22) quoted = true;
		else if (sign === 0x5b || sign === 0x7b) {
			if (++depth > DEEPEST) return true;
		} else if (sign === 0x5d || sign === 0x7d) depth--;
	}
	return false;
}

/** A body as JSON. @throws Problem 400 when it is none, or holds text that cannot be stored */
export function readBody(text: string): unknown {
	if (isDeep(text))
		throw new Problem(`The body holds more than ${DEEPEST} lists within each other. Send it flat.`, 400);
	try {
		// A body that writes no sign by its number holds nothing but what stands in it: one look at the whole is enough.
		if (!/\\[ubf]/.test(text) && !badText(text)) return JSON.parse(text);
		// Else one look at every text in it, whatever it is for.
		return JSON.parse(text, (key, value) => {
			if (badText(key) || (typeof value === 'string' && badText(value.replaceAll(/[\x1d\x1e\x04]/g, ''))))
				throw new Unfit();
			return value;
		});
	} catch (e) {
		if (e instanceof Unfit)
			throw new Problem(
				'The body holds text that cannot be stored: half a character, or a sign that cannot be typed. Correct it.',
				400
			);
		throw new Problem('The body is not JSON. Send application/json in UTF-8.', 400);
	}
}
class Unfit extends Error {}
