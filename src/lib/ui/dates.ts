// Dates as the person who is signed in reads them. What the server says in sentences and on papers stays English.
import * as dates from '$lib/core/dates/dates';
import type { Day } from '$lib/core/dates/dates';
import type { DateLanguage } from '$lib/core/dates/language';

let language: DateLanguage = 'en';
/**
 * Says in which language the pages drawn from now on write dates. On the server a page is drawn in one go right after
 * this, so that nobody gets another person's.
 */
export const useDateLanguage = (persons: DateLanguage): void => void (language = persons);

/** 3 Mar 2027 */
export const showDay = (day: Day): string => dates.showDay(day, language);
/** A day or a moment for people; any other text stays as it is. */
export const showWhen = (text: string): string => dates.showWhen(text, language);
