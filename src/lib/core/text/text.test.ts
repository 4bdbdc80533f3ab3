import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { number, text } from './input.ts';
import { LONGEST_NUMBER, readNumber, readText, shown } from './text.ts';

const problem = (typed: string) => {
	const r = readNumber(typed);
	return 'problem' in r ? r.problem : null;
};

describe('numbers as they enter', () => {
	it.each([
		['zero-width space', 'PW\u200B-1', 'cannot be seen'],
		['zero-width joiner', 'PW\u200D-1', 'cannot be seen'],
		['a mark of direction', '\u202EPW-1', 'cannot be seen'],
		['soft hyphen', 'PW\u00AD1', 'cannot be seen'],
		['NUL', 'PW\u00001', 'cannot be typed'],
		['half a character', 'PW\uD8001', 'half a character'],
		['a noncharacter', 'PW\uFFFE1', 'cannot be typed'],
		['a blank', 'PW 1', 'has a blank in it'],
		['a no-break space', 'PW\u00A01', 'has a blank in it'],
		['too much', 'P'.repeat(61), 'at most 60'],
		['far too much', 'P'.repeat(60_000), 'at most 60'],
		['nothing', '', 'is empty']
	])('%s is refused with a sentence', (_what, typed, says) => expect(problem(typed)).toContain(says));

	it('é in two forms is one number (Unicode Standard Annex 15, NFC)', () => {
		expect(readNumber('CAFE\u0301-1')).toEqual({ number: 'CAFÉ-1' });
		expect(readNumber('CAFÉ-1')).toEqual({ number: 'CAFÉ-1' });
	});
	it('whatever is given, what comes out can be stored and is at most 60 characters', () => {
		fc.assert(
			fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (typed) => {
				const r = readNumber(typed);
				if ('problem' in r) {
					expect(r.problem).toMatch(/\.$/);
					return;
				}
				expect(r.number.length).toBeLessThanOrEqual(LONGEST_NUMBER);
				expect(r.number).toBe(r.number.normalize('NFC'));
				expect(r.number).not.toMatch(/[\s\p{Cc}\p{Cf}\p{Cs}]/u);
			})
		);
	});
	it('the type for numbers and the reader are one', () => {
		for (const typed of ['PW-1', 'PW 1', 'PW\u200B1'])
			expect(number.safeParse(typed).success).toBe(problem(typed) === null);
	});
});

describe('text as it enters', () => {
	it('keeps line breaks and signs of any language, in NFC', () => {
		expect(readText('Erste Zeile\nzwe\u0301')).toEqual({ text: 'Erste Zeile\nzwé' });
		expect(readText('👩‍🔬 измерила')).toEqual({ text: '👩‍🔬 измерила' });
	});
	it.each(['a\u0000b', '\uD800', 'x\u0007'])('refuses %j', (t) => expect('problem' in readText(t)).toBe(true));
	it('is measured after it was trimmed, and may be empty only where that is said', () => {
		expect(text(5).parse('  abc  ')).toBe('abc');
		expect(text(5).safeParse('abcdef').success).toBe(false);
		expect(text(5).safeParse('   ').success).toBe(false);
		expect(text(5, 0).parse('   ')).toBe('');
	});
	it('a sentence shows what was typed, shortened and without what would break it', () => {
		expect(shown('x'.repeat(60_000))).toBe('x'.repeat(20) + '…');
		expect(shown('a\u202Eb')).toBe('a\u{FFFD}b');
	});
});
