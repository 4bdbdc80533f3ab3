/** The languages that people may read and type months in, as each calls itself. */
export const DATE_LANGUAGES = {
	...{ en: 'English', de: 'Deutsch', es: 'Español', fr: 'Français', it: 'Italiano', nl: 'Nederlands', pl: 'Polski' }
} as const;
export type DateLanguage = keyof typeof DATE_LANGUAGES;

const ENGLISH = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const others = Object.keys(DATE_LANGUAGES).filter((language) => language !== 'en') as DateLanguage[];

const known = new Map<string, string[]>();
/** The months' names beside a day, from the Unicode CLDR as Intl has it. */
function monthNames(language: DateLanguage, how: 'short' | 'long'): string[] {
	const kept = known.get(language + how);
	if (kept) return kept;
	const write = new Intl.DateTimeFormat(language, { day: 'numeric', month: how, timeZone: 'UTC' });
	const names = Array.from(
		{ length: 12 },
		(_, m) => write.formatToParts(Date.UTC(2027, m, 1)).find((p) => p.type === 'month')!.value
	);
	known.set(language + how, names);
	return names;
}
/** A month's short name: Mar, März, mars. @param month 1 to 12 */
export const monthName = (month: number, language: DateLanguage): string =>
	(language === 'en' ? ENGLISH : monthNames(language, 'short'))[month - 1];

/** A word without capitals, accents and its dot. */
const plain = (word: string) =>
	word
		.normalize('NFD')
		.replace(/[\p{M}.]/gu, '')
		.toLowerCase();
let words: Map<string, number> | undefined;
/** The number of a month that is written in one of the languages, short or long; 0 where no month is called so. */
export function monthOfWord(word: string): number {
	const asked = plain(word);
	const english = ENGLISH.findIndex((name) => name.toLowerCase() === asked.slice(0, 3)) + 1;
	if (english) return english;
	words ??= new Map(
		others.flatMap((l) =>
			(['short', 'long'] as const).flatMap((how) => monthNames(l, how).map((name, m) => [plain(name), m + 1] as const))
		)
	);
	return words.get(asked) ?? 0;
}
