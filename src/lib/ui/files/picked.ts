/** The most a file may hold, in bytes; the server refuses more. */
export const MOST = 10_000_000;

const send = async (url: string, file: File, fallback: string): Promise<Record<string, unknown>> => {
	if (file.size > MOST) throw new Error(`${file.name} is larger than 10 MB. Split it, or make it smaller.`);
	const answer = await fetch(url, {
		method: 'POST',
		body: file,
		headers: { accept: 'application/json', 'content-type': 'application/octet-stream' }
	}).catch(() => null);
	const given = await answer?.json().catch(() => null);
	if (!answer?.ok) throw new Error(given?.detail ?? fallback);
	return given;
};

/** What a picked or dropped file holds: text as it is, an XLSX as the cells of its first sheet, read by the server. */
export async function readPicked(file: File): Promise<{ name: string; text?: string; cells?: string[][] }> {
	if (!/\.xlsx$/i.test(file.name)) {
		if (file.size > MOST) throw new Error(`${file.name} is larger than 10 MB. Split it.`);
		return { name: file.name, text: await file.text() };
	}
	const given = await send('/tables', file, 'The file could not be read. Try again, or save it as CSV.');
	return { name: file.name, cells: given.cells as string[][] };
}

/** Keeps a certificate or picture on the server. @returns the value of a fact that is this file */
export async function keepPicked(file: File): Promise<string> {
	const url = `/files?name=${encodeURIComponent(file.name)}`;
	const given = await send(url, file, `${file.name} could not be kept. Try again.`);
	return String(given.value);
}
