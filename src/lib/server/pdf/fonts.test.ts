import { expect, it } from 'vitest';
import { pdfs } from './fonts.ts';

const LATIN = Array.from({ length: 0x17f - 0x20 }, (_, i) => String.fromCharCode(0x20 + i)).filter((c) =>
	/\P{C}/u.test(c)
);

it.each(['Sans', 'Mono'])(
	'draws every letter of %s, each by itself: an accent or a colon stops no paper',
	async (font) => {
		const maker = await pdfs();
		const failed: string[] = [];
		for (const text of [...LATIN, '€', '–', '’', '“', '×', 'Müller & Søn: "A B"', 'Čapek, Łódź'])
			await maker
				.createPdf({ defaultStyle: { font }, content: [{ text }] })
				.getBuffer()
				.catch(() => failed.push(text));
		expect(failed).toEqual([]);
	}
);
